"""Optics and geometry of a camera: lens, framing, curves, poses along a path, and the figures of its movement."""
