"""Variants of a shot: which there are, what each is called, and the shot that each is."""
