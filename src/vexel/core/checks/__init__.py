"""What is found before a capture:
the reckoning, preflight findings with their mends, and the estimate of its cost."""
