"""Meshes and point clouds: their files, parts, splats and which way is up."""
