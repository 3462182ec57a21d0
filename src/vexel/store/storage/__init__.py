"""What a project takes on disk, and what of it nothing uses."""
