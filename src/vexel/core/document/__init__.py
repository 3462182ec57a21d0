"""The shot document: its parts, how it is read and patched, and the sentence for what is wrong in it."""
