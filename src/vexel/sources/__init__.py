"""Sources: one module a kind; each turns dials and an instant into parts to be drawn.

`vexel.sources.files` only reads files and is safe anywhere; a source is opened,
through `vexel.sources.registry`, in a stage process alone.
"""
