"""What is kept of reviews: figures of frames, and notes."""
