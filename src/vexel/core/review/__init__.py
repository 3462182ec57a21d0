"""What is seen in the frames of a take: figures of its signal, and findings."""
