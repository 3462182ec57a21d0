"""The reel: takes put together, as a document, as pictures frame by frame, and what is off with it."""
