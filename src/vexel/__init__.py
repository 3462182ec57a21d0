"""Vexel: capture frames at fixed time steps and encode them to verified video."""

__version__ = "0.1.0"
__all__ = ["recorder"]


def __getattr__(name: str) -> object:
    """Load the recorder, and the libraries that it needs, on first use."""
    if name == "recorder":
        from vexel.recording import recorder

        return recorder
    raise AttributeError(f"module 'vexel' has no attribute {name!r}")
