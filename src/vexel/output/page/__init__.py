"""The web page that a take becomes: its document and its scripts."""
