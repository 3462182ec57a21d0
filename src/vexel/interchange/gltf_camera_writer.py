"""A camera's way as glTF 2.0: one animated camera, for other 3D programs.

The specification counts +y up and seconds, and its cameras look along their
own −z; the source's +z is up, so (x, y, z) becomes (x, z, −y).
"""

import base64
import json
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.path_figures import axes_of
from vexel.core.evaluate.camera_table import camera_of
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.sampled_camera import SampledCamera

FLOAT = 5126
"""Number of a 32-bit float among the specification's component types."""
POINTER = "KHR_animation_pointer"
_Y_UP = np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])


def gltf_text(plan: Plan) -> str:
    """A glTF file with one camera that moves as the shot's does, as text.

    A lens that changes is animated by the Khronos extension
    ``KHR_animation_pointer``; programs without it keep that of the first frame.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    camera = camera_of(plan)
    path = camera.path
    times = (np.arange(plan.clock.frames) / float(plan.clock.playback.fps)).astype(np.float32)
    places = (path.positions @ _Y_UP.T).astype(np.float32)
    forward, right, up = axes_of(path)
    turns = quaternions(np.stack([right, up, -forward], axis=1) @ _Y_UP.T).astype(np.float32)
    lens = _lens_courses(plan, camera)
    blocks = [("SCALAR", times), ("VEC3", places), ("VEC4", turns), *(("SCALAR", course) for course in lens.values())]
    data = b"".join(values.tobytes() for _, values in blocks)
    views: list[dict[str, Any]] = []
    accessors: list[dict[str, Any]] = []
    at = 0
    for kind, values in blocks:
        size = values.nbytes
        views.append({"buffer": 0, "byteOffset": at, "byteLength": size})
        accessor: dict[str, Any] = {
            "bufferView": len(accessors), "componentType": FLOAT, "count": len(values), "type": kind,
        }  # fmt: skip
        if not accessors:
            accessor |= {"min": [float(values.min())], "max": [float(values.max())]}
        accessors.append(accessor)
        at += size
    sampler = {"input": 0, "interpolation": "LINEAR"}
    document = {
        "asset": {"version": "2.0", "generator": "Vexel"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [
            {"name": plan.shot.title, "camera": 0, "translation": places[0].tolist(), "rotation": turns[0].tolist()}
        ],
        "cameras": [_camera(plan, camera)],
        "animations": [
            {
                "name": plan.shot.title,
                "samplers": [sampler | {"output": n} for n in range(1, len(blocks))],
                "channels": [
                    *(
                        {"sampler": n, "target": {"node": 0, "path": what}}
                        for n, what in enumerate(("translation", "rotation"))
                    ),
                    *({"sampler": n, "target": _pointer(place)} for n, place in enumerate(lens, start=2)),
                ],
            }
        ],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [
            {
                "byteLength": len(data),
                "uri": "data:application/octet-stream;base64," + base64.b64encode(data).decode(),
            }
        ],
    }
    if lens:
        document["extensionsUsed"] = [POINTER]
    return json.dumps(document, indent=1) + "\n"


def _lens_courses(plan: Plan, camera: SampledCamera) -> dict[str, NDArray[np.float32]]:
    """Numbers of the lens that change over the shot, by their places in the document."""
    if camera.parallel_highs.any():
        half = camera.parallel_highs / 2
        wide = half * plan.shot.picture.width / plan.shot.picture.height
        courses = {"orthographic/xmag": wide, "orthographic/ymag": half}
    else:
        courses = {"perspective/yfov": np.radians(camera.views_high_deg)}
    return {
        f"/cameras/0/{place}": values.astype(np.float32)
        for place, values in courses.items()
        if np.ptp(values) > 1e-6 * np.abs(values).max()
    }


def _pointer(place: str) -> dict[str, Any]:
    return {"path": "pointer", "extensions": {POINTER: {"pointer": place}}}


def _camera(plan: Plan, camera: SampledCamera) -> dict[str, Any]:
    """The lens of the first frame, with planes that hold the subject in all frames."""
    picture, high = plan.shot.picture, float(camera.parallel_highs[0])
    poses = [
        pose for n in range(plan.clock.frames) if (pose := plan.frame_spec(n).shutter_samples[0].camera) is not None
    ]
    near, far = min(pose.near for pose in poses), max(pose.far for pose in poses)
    if high > 0:
        size = {"xmag": high / 2 * picture.width / picture.height, "ymag": high / 2}
        return {"type": "orthographic", "orthographic": size | {"znear": near, "zfar": far}}
    view = {"yfov": float(np.radians(camera.views_high_deg[0])), "aspectRatio": picture.width / picture.height}
    return {"type": "perspective", "perspective": view | {"znear": near, "zfar": far}}


def quaternions(axes: NDArray[np.float64]) -> NDArray[np.float64]:
    """Rotations as unit quaternions (x, y, z, w) without a jump of sign.

    Parameters
    ----------
    axes : ndarray, shape (N, 3, 3)
        Where the local x, y and z axes point, a row each.
    """
    from scipy.spatial.transform import Rotation

    turns: NDArray[np.float64] = Rotation.from_matrix(np.swapaxes(axes, 1, 2)).as_quat()
    flips = np.cumprod(np.where((turns[1:] * turns[:-1]).sum(axis=1) < 0, -1.0, 1.0))
    turns[1:] *= flips[:, None]
    return turns
