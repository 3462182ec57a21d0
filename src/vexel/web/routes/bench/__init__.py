"""Blueprints of the Bench: what is shown and tried of one shot."""
