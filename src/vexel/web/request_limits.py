"""How much may be brought at once."""

MAX_FILES = 20_000
MAX_UPLOAD_BYTES = 2 * 1024**3
TOO_MUCH = (
    f"This is more than {MAX_FILES:,} files or {MAX_UPLOAD_BYTES // 1024**3} GB at once: "
    "put it on this machine, and name its path."
)
