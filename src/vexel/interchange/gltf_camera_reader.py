"""Reads an animated camera from glTF 2.0, as text or binary, as rows of a camera's way."""

import struct
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.wording import counted
from vexel.interchange.gltf_camera_writer import POINTER
from vexel.sources.meshes.gltf_scene import GltfScene

Array = NDArray[np.float64]
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
        if file.stat().st_size > MOST_BYTES:
            raise Mistake(
                f"{file.name} is larger than the {MOST_BYTES // 10**6:,} MB that are read: export the camera alone"
            )
        scene = GltfScene(file)
        node = _camera_node(scene, camera, file.name)
        return _rows(scene, node, fps)
    except Mistake:
        raise  # already a readable sentence, though a ValueError as well
    except (KeyError, IndexError, ValueError, TypeError, struct.error) as error:
        raise Mistake(f"{file.name} is damaged, or is not glTF 2.0 ({error}): export it again") from None


def _camera_node(scene: GltfScene, wanted: str, name: str) -> int:
    nodes = [(n, node) for n, node in enumerate(scene.document.get("nodes", [])) if "camera" in node]
    names = {_named(scene, n, node): n for n, node in nodes}
    if not nodes:
        raise Mistake(f"{name} holds no camera: export one with its animation, or write the path as CSV")
    if wanted and wanted not in names:
        raise Mistake(f"{name} holds no camera {wanted!r}; it holds {', '.join(names)}")
    if len(nodes) > 1 and not wanted:
        raise Mistake(
            f"{name} has {counted(len(nodes), 'camera')}, {', '.join(names)}: choose one with --camera or on the Bench"
        )
    return names[wanted] if wanted else nodes[0][0]


def _named(scene: GltfScene, number: int, node: dict[str, Any]) -> str:
    return str(node.get("name") or scene.document["cameras"][node["camera"]].get("name") or f"camera {number}")


def _rows(scene: GltfScene, node: int, fps: float) -> list[dict[str, float]]:
    chain = scene.chain(node)
    sampled = [
        (channel["target"], animation["samplers"][channel["sampler"]])
        for animation in scene.document.get("animations", [])
        for channel in animation["channels"]
    ]
    channels = [(to["node"], to["path"], sampler) for to, sampler in sampled if to.get("node") in chain]
    camera = scene.document["nodes"][node]["camera"]
    lens = {
        place.removeprefix(f"/cameras/{camera}/"): sampler
        for to, sampler in sampled
        if (place := to.get("extensions", {}).get(POINTER, {}).get("pointer", "")).startswith(f"/cameras/{camera}/")
    }
    ends = [scene.values(sampler["input"])[:, 0] for sampler in (*(of for _, _, of in channels), *lens.values())]
    begin, end = min((e[0] for e in ends), default=0.0), max((e[-1] for e in ends), default=0.0)
    # Keys are 32-bit floats, so that the last frame may stand a little after its own key.
    count = int(np.floor((end - begin) * fps + 1e-3)) + 1
    times = begin + np.arange(count) / fps
    turn, place = np.tile(np.eye(3), (count, 1, 1)), np.zeros((count, 3))
    for number in chain:
        own = {path: sampler for target, path, sampler in channels if target == number}
        rotation, move, scale = scene.local(number, own, times)
        place = np.einsum("nij,nj->ni", rotation, scale * place) + move
        turn = rotation @ turn
    turn, place = _Z_UP @ turn, place @ _Z_UP.T
    courses = _lens_courses(scene, scene.document["cameras"][camera], lens, times)
    rows = []
    for frame in range(count):
        look, up = place[frame] - turn[frame][:, 2], turn[frame][:, 1]
        numbers = [frame, times[frame], *place[frame], *look, *up]
        names = ("frame", "seconds", "x", "y", "z", "look_x", "look_y", "look_z", "up_x", "up_y", "up_z")
        row = dict(zip(names, map(float, numbers), strict=True))
        rows.append(row | {name: float(values[frame]) for name, values in courses.items()})
    return rows


def _lens_courses(
    scene: GltfScene, camera: dict[str, Any], animated: dict[str, dict[str, Any]], times: Array
) -> dict[str, Array]:
    """Angle of view, or height of a parallel frame, at all times."""

    def course(kind: str, name: str) -> Array:
        if sampler := animated.get(f"{kind}/{name}"):
            return scene.sampled(sampler, times)[:, 0]
        return np.full(len(times), float(camera[kind][name]))

    if "perspective" in camera:
        return {"view_high_deg": np.degrees(course("perspective", "yfov"))}
    return {"parallel_high": 2 * course("orthographic", "ymag")} if "orthographic" in camera else {}
