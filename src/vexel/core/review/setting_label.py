"""Names of settings for people, from their places in a document."""

UNITS = {"deg": "°", "mm": "mm", "s": "s", "hz": "Hz"}
"""Ends of names that are units."""


def setting_label(path: str) -> str:
    """The name of a setting with that of the part it belongs to.

    Parameters
    ----------
    path : str
        Such as ``camera.rig.elevation_deg`` or ``lanes.2.keys``, entries of lists counted from 1.

    Examples
    --------
    >>> setting_label("camera.rig.elevation_deg")
    'rig elevation (°)'
    >>> setting_label("lanes.2.keys")
    'lane 2 keys'
    """
    words: list[str] = []
    for part in path.split("."):
        if part.isdecimal() and words:
            words[-1] = f"{words[-1].removesuffix('s')} {part}"
        else:
            words.append(part)
    *parts, last = words
    name, _, unit = last.rpartition("_")
    shown = f"{name} ({UNITS[unit]})" if name and unit in UNITS else last
    return " ".join([*parts[-1:], shown]).replace("_", " ")
