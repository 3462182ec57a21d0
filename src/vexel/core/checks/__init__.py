"""What is found before a capture:
the timing, preflight findings with their fixes, and the estimate of its cost."""
