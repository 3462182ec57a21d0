"""Blueprints: one module for each group of addresses, without domain logic."""
