"""What a glTF 2.0 file holds beside its JSON: numbers of accessors, where nodes are at a time, and its animations."""

import base64
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation, Slerp

from vexel.core.errors import Mistake
from vexel.core.hermite import hermite
from vexel.sources.contained_path import contained_file
from vexel.sources.meshes.gltf import read_gltf

Array = NDArray[np.float64]
FORMS = {5120: "i1", 5121: "u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
Channels = dict[str, dict[str, Any]]
"""Samplers of one node or camera, by what they move."""
_REST: Mapping[str, list[float]] = {"translation": [0.0, 0, 0], "rotation": [0.0, 0, 0, 1], "scale": [1.0, 1, 1]}


class GltfScene:
    """A file's document and its binary data.

    Raises
    ------
    ValueError
        When it is no glTF 2.
    """

    def __init__(self, file: Path) -> None:
        read = read_gltf(file)
        self._binary, self._folder = read.binary, file.parent
        self.document = read.document
        if not str(self.document["asset"]["version"]).startswith("2"):
            raise ValueError(f"version {self.document['asset']['version']}")
        self.nodes: list[dict[str, Any]] = self.document.get("nodes", [])
        self.parents = {child: n for n, node in enumerate(self.nodes) for child in node.get("children", [])}
        # Read once each, however many parts share them.
        self.values = cache(self._values)
        self._held = cache(self._buffer)

    def _values(self, number: int) -> Array:
        """Numbers of an accessor, shape (N, K), with those that it states apart."""
        accessor = self.document["accessors"][number]
        form, width, count = np.dtype(FORMS[accessor["componentType"]]), WIDTHS[accessor["type"]], accessor["count"]
        if "bufferView" in accessor:
            values = self._read(accessor["bufferView"], accessor.get("byteOffset", 0), form, width, count)
        else:
            values = np.zeros((count, width), form)
        if sparse := accessor.get("sparse"):
            of, to = sparse["indices"], sparse["values"]
            places = self._read(
                of["bufferView"], of.get("byteOffset", 0), np.dtype(FORMS[of["componentType"]]), 1, sparse["count"]
            )
            values = values.copy()
            values[places[:, 0]] = self._read(to["bufferView"], to.get("byteOffset", 0), form, width, sparse["count"])
        found = values.astype(np.float64)
        return np.maximum(found / np.iinfo(form).max, -1) if accessor.get("normalized") else found

    def _read(self, view_number: int, offset: int, form: np.dtype[Any], width: int, count: int) -> NDArray[Any]:
        view = self.document["bufferViews"][view_number]
        start, size = view.get("byteOffset", 0) + offset, width * form.itemsize
        stride = view.get("byteStride", size)
        data = np.frombuffer(self._held(view["buffer"]), np.uint8)
        if start + (count - 1) * stride + size > len(data):
            raise ValueError("its data ends early")
        rows = np.lib.stride_tricks.as_strided(data[start:], (count, size), (stride, 1), writeable=False)
        return np.ascontiguousarray(rows).view(form)

    def bytes_of(self, item: dict[str, Any]) -> bytes:
        """Of an image: from its buffer, its address, or a file beside."""
        if "bufferView" in item:
            view = self.document["bufferViews"][item["bufferView"]]
            begin = view.get("byteOffset", 0)
            return self._held(view["buffer"])[begin : begin + view["byteLength"]]
        return self._at(item["uri"])

    def _buffer(self, number: int) -> bytes:
        uri = self.document["buffers"][number].get("uri")
        return self._binary if uri is None else self._at(uri)

    def _at(self, uri: str) -> bytes:
        if uri.startswith("data:"):
            return base64.b64decode(uri.split(",", 1)[1])
        beside = contained_file(self._folder, unquote(uri), "the glTF file")
        if not beside.is_file():
            raise Mistake(f"{uri} is missing: add it, or export one file that holds everything")
        return beside.read_bytes()

    def chain(self, node: int) -> list[int]:
        """A node and those above it, from itself up.

        Raises
        ------
        ValueError
            When a node is above itself.
        """
        chain = [node]
        while chain[-1] in self.parents:
            chain.append(self.parents[chain[-1]])
            if len(chain) > len(self.nodes):
                raise ValueError(f"node {node} is above itself")
        return chain

    def local(self, number: int, channels: Channels, times: Array) -> tuple[Array, Array, Array]:
        """Rotation, translation and scale of a node at all times, shapes (N, 3, 3), (N, 3) and (N, 3)."""
        node, rest = self.nodes[number], dict(_REST)
        if "matrix" in node:
            matrix = np.array(node["matrix"], dtype=np.float64).reshape(4, 4).T
            scale = np.linalg.norm(matrix[:3, :3], axis=0)
            # A reflection is no rotation: one side is counted backwards.
            scale[0] *= np.sign(np.linalg.det(matrix[:3, :3])) or 1
            turned = Rotation.from_matrix(matrix[:3, :3] / scale).as_quat()
            rest = {"translation": matrix[:3, 3].tolist(), "rotation": turned.tolist(), "scale": scale.tolist()}
        found = {
            path: self.sampled(channels[path], times, turns=path == "rotation")
            if path in channels
            else np.tile(np.array(node.get(path, value), dtype=np.float64), (len(times), 1))
            for path, value in rest.items()
        }
        turns: Array = Rotation.from_quat(found["rotation"]).as_matrix()
        return turns, found["translation"], found["scale"]

    def sampled(self, sampler: dict[str, Any], times: Array, turns: bool = False) -> Array:
        """Values of an animation's sampler, shape (N, K); before its first key and after its last they stand."""
        keys, values = self.values(sampler["input"])[:, 0], self.values(sampler["output"])
        at = np.clip(times, keys[0], keys[-1])
        how = sampler.get("interpolation", "LINEAR")
        each = 3 if how == "CUBICSPLINE" else 1
        # Weights of several shapes come one after another for each key.
        values = values.reshape(len(keys), each, -1)
        n = np.clip(np.searchsorted(keys, at, side="right") - 1, 0, max(len(keys) - 2, 0))
        if how == "STEP" or len(keys) == 1:
            held: Array = values[
                np.clip(np.searchsorted(keys, at + 1e-6, side="right") - 1, 0, len(keys) - 1), each // 2
            ]
            return held
        if how == "CUBICSPLINE":
            wide = (keys[n + 1] - keys[n])[:, None]
            t = (at - keys[n])[:, None] / wide
            arriving, place, leaving = (values[:, k] for k in range(3))
            spline = hermite(t, place[n], place[n + 1], wide * leaving[n], wide * arriving[n + 1])
            return spline / np.linalg.norm(spline, axis=1, keepdims=True) if turns else spline
        if turns:
            slerp: Array = Slerp(keys, Rotation.from_quat(values[:, 0]))(at).as_quat()
            return slerp
        return np.stack([np.interp(at, keys, column) for column in values[:, 0].T], axis=1)
