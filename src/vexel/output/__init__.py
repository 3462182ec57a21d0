"""Compiling frames to a file, and proving the file."""
