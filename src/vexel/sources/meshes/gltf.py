"""glTF 2.0 files, as text or binary: their JSON document and the binary data within."""

import json
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

_MAGIC, _JSON, _BIN = 0x46546C67, 0x4E4F534A, 0x004E4942
_HEAD_BYTES, _CHUNK_HEAD_BYTES = 12, 8


@dataclass(frozen=True)
class Gltf:
    """A file, read.

    Attributes
    ----------
    document : dict
        Its JSON.
    binary : bytes
        The binary chunk of a ``.glb``; else empty.
    """

    document: dict[str, Any]
    binary: bytes = b""

    @property
    def uris(self) -> list[str]:
        """Files that it names: buffers and images that are not within it."""
        items = [item for name in ("buffers", "images") for item in self.document.get(name) or []]
        uris = [item.get("uri") for item in items if isinstance(item, dict)]
        return [uri for uri in uris if isinstance(uri, str) and uri and not uri.startswith("data:")]


def read_gltf(file: Path) -> Gltf:
    """Read a ``.gltf`` or ``.glb`` file.

    Raises
    ------
    ValueError
        When it holds no JSON object.
    """
    data = file.read_bytes()
    binary = b""
    if len(data) > _HEAD_BYTES + _CHUNK_HEAD_BYTES and struct.unpack("<I", data[:4])[0] == _MAGIC:
        at, text = _HEAD_BYTES, b""
        while at + _CHUNK_HEAD_BYTES <= len(data):
            size, kind = struct.unpack("<II", data[at : at + _CHUNK_HEAD_BYTES])
            chunk = data[at + _CHUNK_HEAD_BYTES : at + _CHUNK_HEAD_BYTES + size]
            if kind == _JSON:
                text = chunk
            elif kind == _BIN:
                binary = chunk
            at += _CHUNK_HEAD_BYTES + size
        data = text
    document = json.loads(data)
    if not isinstance(document, dict):
        raise ValueError("its JSON is not an object")
    return Gltf(document, binary)
