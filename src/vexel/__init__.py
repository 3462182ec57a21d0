"""Vexel: plan a piece of video to the frame, capture it once, prove the file."""

__version__ = "0.1.0"
