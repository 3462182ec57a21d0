"""The user's Python: loading it, its decorators, the results of its functions, and checkpoints of simulations."""
