"""Pixels: turns parts, a camera and a picture plan into an image."""
