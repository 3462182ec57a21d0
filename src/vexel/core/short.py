"""Numbers as people would write them into a document."""


def short(value: float) -> float:
    """A number with six significant digits, never minus zero."""
    return float(f"{value:.6g}") + 0.0
