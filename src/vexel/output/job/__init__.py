"""What a file is to be, and its pictures: placed, scaled, converted."""
