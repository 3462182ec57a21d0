"""Scripts that measure Vexel, each against something that makes the same: ``python -m bench`` runs all of them."""
