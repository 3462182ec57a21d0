"""Frames that a running program hands over: where they go, and their ledger while they come."""
