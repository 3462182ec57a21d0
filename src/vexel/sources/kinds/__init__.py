"""One module for each kind of source."""
