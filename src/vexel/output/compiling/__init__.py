"""Files made of footage, several at once, and kept within a size."""
