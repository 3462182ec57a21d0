"""The size of a project on disk, and the parts that nothing uses."""
