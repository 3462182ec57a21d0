"""Vexel: capture frames at fixed time steps and encode them to verified video."""

__version__ = "0.1.0"
__all__ = ["recorder"]


def __getattr__(name: str) -> object:
    """Bring the recorder with the libraries that it needs only when it is asked for."""
    if name == "recorder":
        from vexel.recording import recorder

        return recorder
    raise AttributeError(f"module 'vexel' has no attribute {name!r}")
