"""What is found before a capture:
the reckoning, preflight findings with their fixes, and the estimate of its cost."""
