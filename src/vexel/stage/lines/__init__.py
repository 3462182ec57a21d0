"""Drawn lines: wireframe, feature edges, and their compositing onto a picture."""
