"""A person's own Python: loaded, its decorators, what its functions return, and checkpoints of simulations."""
