"""Image files as pixels."""
