"""The provenance record of a file: written into each kind of file, and read from any."""
