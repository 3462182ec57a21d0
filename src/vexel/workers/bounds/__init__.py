"""Bounds of a process that runs the user's code: what it may use, write, read and signal."""
