"""The sound of a reel: its beats, its loudness, and where clips are heard."""
