"""Pixels: sRGB and light, bit depths, compositing, scaling, and image files read and written."""
