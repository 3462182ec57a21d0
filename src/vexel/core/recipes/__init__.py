"""Recipes: how a kind of file is made of a take, and what comes of it, computed before."""
