"""What a file says of how it was made: written into each kind of file, and read from any."""
