"""The plan of a file, and its pictures: placed, scaled, converted."""
