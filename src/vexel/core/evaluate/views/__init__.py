"""A plan seen by one of its cameras, or from one of its frames."""
