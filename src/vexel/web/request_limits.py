"""How much may be sent at once."""

from vexel.core.document_text import MOST_BYTES

MAX_FILES = 20_000
MAX_UPLOAD_BYTES = 2 * 1024**3
MAX_DOCUMENT_BYTES = MOST_BYTES
TOO_MUCH = (
    f"This is more than {MAX_FILES:,} files or {MAX_UPLOAD_BYTES // 1024**3} GB at once: "
    "put it on this machine, and name its path."
)
TOO_LARGE_DOCUMENT = f"this is more than the {MAX_DOCUMENT_BYTES // 1_000_000} MB that a document may have"
