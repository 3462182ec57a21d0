"""What a capture will cost, before it is made: time, bytes, memory and the size of its file."""
