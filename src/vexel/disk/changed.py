"""When a file was changed, as a mark that tells one content from the next."""

from pathlib import Path


def changed_at(file: Path) -> int:
    """Nanoseconds at which a file was changed; 0 where there is none."""
    try:
        return file.stat().st_mtime_ns
    except (OSError, RuntimeError, ValueError):
        return 0
