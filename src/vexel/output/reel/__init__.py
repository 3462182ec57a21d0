"""A reel's pictures and sound: drawn of its plan, and compiled as any other footage."""
