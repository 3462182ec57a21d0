"""Reads an animated camera from glTF 2.0, as text or binary, as rows of a camera's way."""

import base64
import struct
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation, Slerp

from vexel.core.errors import Mistake
from vexel.core.hermite import hermite
from vexel.core.wording import counted
from vexel.sources.contained import contained_file
from vexel.sources.meshes.gltf import read_gltf

Array = NDArray[np.float64]
_FORMS = {5120: "i1", 5121: "u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_WIDTHS = {"SCALAR": 1, "VEC3": 3, "VEC4": 4}
_Z_UP = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])
MOST_BYTES = 200_000_000


def gltf_rows(file: Path, fps: float, camera: str = "") -> list[dict[str, float]]:
    """The camera of a file in every frame, from its first key to its last.

    Parameters
    ----------
    file : Path
        ``.gltf`` or ``.glb``.
    fps : float
        At which its seconds become frames.
    camera : str
        Name of the camera, where the file holds several.

    Raises
    ------
    Mistake
        When it is no glTF, or holds no camera, or several and none was named.
    """
    try:
        scene = _Scene(file)
        node = _camera_node(scene, camera, file.name)
        return _rows(scene, node, fps)
    except Mistake:
        raise  # a sentence of its own, though a ValueError as well
    except (KeyError, IndexError, ValueError, TypeError, struct.error) as error:
        raise Mistake(f"{file.name} is damaged, or is not glTF 2.0 ({error}): export it again") from None


class _Scene:
    """A file's document and its binary data."""

    def __init__(self, file: Path) -> None:
        if file.stat().st_size > MOST_BYTES:
            raise Mistake(
                f"{file.name} is larger than the {MOST_BYTES // 10**6:,} MB that are read: export the camera alone"
            )
        read = read_gltf(file)
        self._binary, self._folder = read.binary, file.parent
        self.document = read.document
        if not str(self.document["asset"]["version"]).startswith("2"):
            raise ValueError(f"version {self.document['asset']['version']}")
        self.parents = {
            child: n for n, node in enumerate(self.document.get("nodes", [])) for child in node.get("children", [])
        }

    def values(self, number: int) -> Array:
        """Numbers of an accessor, shape (N, K)."""
        accessor = self.document["accessors"][number]
        view = self.document["bufferViews"][accessor["bufferView"]]
        form, width = np.dtype(_FORMS[accessor["componentType"]]), _WIDTHS[accessor["type"]]
        start = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        stride = view.get("byteStride", width * form.itemsize)
        data = np.frombuffer(self._buffer(view["buffer"]), np.uint8)
        rows = np.lib.stride_tricks.as_strided(
            data[start:], (accessor["count"], width * form.itemsize), (stride, 1), writeable=False
        )
        if start + (accessor["count"] - 1) * stride + width * form.itemsize > len(data):
            raise ValueError("its data ends early")
        values = np.ascontiguousarray(rows).view(form).astype(np.float64)
        return values / np.iinfo(form).max if accessor.get("normalized") else values

    def _buffer(self, number: int) -> bytes:
        uri = self.document["buffers"][number].get("uri")
        if uri is None:
            return self._binary
        if uri.startswith("data:"):
            return base64.b64decode(uri.split(",", 1)[1])
        beside = contained_file(self._folder, unquote(uri), "the glTF file")
        if not beside.is_file():
            raise Mistake(f"{uri} is missing: add it, or export one file that holds everything")
        return beside.read_bytes()


def _camera_node(scene: _Scene, wanted: str, name: str) -> int:
    nodes = [(n, node) for n, node in enumerate(scene.document.get("nodes", [])) if "camera" in node]
    names = {_named(scene, n, node): n for n, node in nodes}
    if not nodes:
        raise Mistake(f"{name} holds no camera: export one with its animation, or write the path as CSV")
    if wanted and wanted not in names:
        raise Mistake(f"{name} holds no camera {wanted!r}; it holds {', '.join(names)}")
    if len(nodes) > 1 and not wanted:
        raise Mistake(
            f"{name} holds {counted(len(nodes), 'camera')}, {', '.join(names)}: choose one by --camera or on the Bench"
        )
    return names[wanted] if wanted else nodes[0][0]


def _named(scene: _Scene, number: int, node: dict[str, Any]) -> str:
    return str(node.get("name") or scene.document["cameras"][node["camera"]].get("name") or f"camera {number}")


def _rows(scene: _Scene, node: int, fps: float) -> list[dict[str, float]]:
    chain = [node]
    while chain[-1] in scene.parents:
        chain.append(scene.parents[chain[-1]])
    channels = [
        (channel["target"]["node"], channel["target"]["path"], animation["samplers"][channel["sampler"]])
        for animation in scene.document.get("animations", [])
        for channel in animation["channels"]
        if channel["target"].get("node") in chain
    ]
    ends = [scene.values(sampler["input"])[:, 0] for _, _, sampler in channels]
    begin, end = min((e[0] for e in ends), default=0.0), max((e[-1] for e in ends), default=0.0)
    # Keys are 32-bit floats, so that the last frame may stand a little after its own key.
    count = int(np.floor((end - begin) * fps + 1e-3)) + 1
    times = begin + np.arange(count) / fps
    turn, place = np.tile(np.eye(3), (count, 1, 1)), np.zeros((count, 3))
    for number in chain:
        own = {path: sampler for target, path, sampler in channels if target == number}
        rotation, move, scale = _local(scene, scene.document["nodes"][number], own, times)
        place = np.einsum("nij,nj->ni", rotation, scale * place) + move
        turn = rotation @ turn
    turn, place = _Z_UP @ turn, place @ _Z_UP.T
    view = _view_high_deg(scene.document["cameras"][scene.document["nodes"][node]["camera"]])
    rows = []
    for frame in range(count):
        look, up = place[frame] - turn[frame][:, 2], turn[frame][:, 1]
        numbers = [frame, times[frame], *place[frame], *look, *up]
        names = ("frame", "seconds", "x", "y", "z", "look_x", "look_y", "look_z", "up_x", "up_y", "up_z")
        row = dict(zip(names, map(float, numbers), strict=True))
        rows.append(row if view is None else row | {"view_high_deg": view})
    return rows


def _view_high_deg(camera: dict[str, Any]) -> float | None:
    perspective = camera.get("perspective")
    return None if perspective is None else float(np.degrees(perspective["yfov"]))


def _local(
    scene: _Scene, node: dict[str, Any], channels: dict[str, dict[str, Any]], times: Array
) -> tuple[Array, Array, Array]:
    """Rotation, translation and scale of one node at all times."""
    still = {"translation": [0.0, 0, 0], "rotation": [0.0, 0, 0, 1], "scale": [1.0, 1, 1]}
    if "matrix" in node:
        matrix = np.array(node["matrix"], dtype=np.float64).reshape(4, 4).T
        scale = np.linalg.norm(matrix[:3, :3], axis=0)
        still = {
            "translation": matrix[:3, 3].tolist(),
            "rotation": Rotation.from_matrix(matrix[:3, :3] / scale).as_quat().tolist(),
            "scale": scale.tolist(),
        }
    found = {
        path: _sampled(scene, channels[path], times, path == "rotation")
        if path in channels
        else np.tile(np.array(node.get(path, value), dtype=np.float64), (len(times), 1))
        for path, value in still.items()
    }
    turns: Array = Rotation.from_quat(found["rotation"]).as_matrix()
    return turns, found["translation"], found["scale"]


def _sampled(scene: _Scene, sampler: dict[str, Any], times: Array, turns: bool) -> Array:
    """Values of an animation's sampler; before its first key and after its last they stand."""
    keys, values = scene.values(sampler["input"])[:, 0], scene.values(sampler["output"])
    at = np.clip(times, keys[0], keys[-1])
    how = sampler.get("interpolation", "LINEAR")
    n = np.clip(np.searchsorted(keys, at, side="right") - 1, 0, max(len(keys) - 2, 0))
    if how == "STEP" or len(keys) == 1:
        return values[np.clip(np.searchsorted(keys, at + 1e-6, side="right") - 1, 0, len(keys) - 1)]
    if how == "CUBICSPLINE":
        wide = (keys[n + 1] - keys[n])[:, None]
        t = (at - keys[n])[:, None] / wide
        arriving, place, leaving = (values[k::3] for k in range(3))
        spline = hermite(t, place[n], place[n + 1], wide * leaving[n], wide * arriving[n + 1])
        return spline / np.linalg.norm(spline, axis=1, keepdims=True) if turns else spline
    if turns:
        slerp: Array = Slerp(keys, Rotation.from_quat(values))(at).as_quat()
        return slerp
    return np.stack([np.interp(at, keys, column) for column in values.T], axis=1)
