"""Files on disk: written whole or not at all, known by digest, checked, swept and locked."""
