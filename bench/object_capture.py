"""(a) Capture of an object turning, against a plain single-process PyVista script.

Both make 48 frames at 1080p of the same 179,000 triangles with the same light,
camera and four looks into each pixel, and write PNG files. The plain script is
what one writes by hand: a plotter, its screenshot, one frame after the other.
It is timed twice: with the same pictures (four jittered renders a frame, their
mean written), and with the plotter's own anti-aliasing, which is its default way.
"""

import sys
from math import cos, pi, radians, sin
from pathlib import Path

import numpy as np

from common import folder, object_shot, tell, timed, vexel

FRAMES = 48


def plain(mesh_file: str, out: str, way: str) -> None:
    """The plain script."""
    import pyvista as pv
    from PIL import Image

    from vexel.core.picture import sample_offsets
    from vexel.stage.scene import Scene  # only for its light, so that the pictures are the same

    plotter = Scene().plotter
    plotter.window_size = (1920, 1080)
    plotter.set_background("#2b2f33")
    if way == "own":
        plotter.render_window.SetMultiSamples(4)
    plotter.add_mesh(pv.read(mesh_file), color="#cfc6b8", smooth_shading=True, show_scalar_bar=False)
    camera, offsets = plotter.renderer.GetActiveCamera(), sample_offsets(4)
    camera.SetViewAngle(22.9)
    for frame in range(FRAMES):
        a = 2 * pi * frame / FRAMES
        e = radians(18)
        camera.SetPosition(3.2 * cos(e) * sin(a), -3.2 * cos(e) * cos(a), 3.2 * sin(e))
        camera.SetFocalPoint(0, 0, 0)
        camera.SetViewUp(0, 0, 1)
        plotter.renderer.ResetCameraClippingRange()
        if way == "own":
            picture = plotter.screenshot(return_img=True)
        else:
            looks = []
            for x, y in offsets:
                camera.SetWindowCenter(2 * x / 1920, 2 * y / 1080)
                looks.append(plotter.screenshot(return_img=True).astype(np.float32))
            picture = np.rint(np.mean(looks, axis=0)).astype(np.uint8)
        Image.fromarray(picture).save(Path(out) / f"{frame:04d}.png")


def main() -> None:
    """Time both and print the ratio."""
    with folder() as place:
        shot = object_shot(place, FRAMES)
        figures = {}
        for way in ("same", "own"):
            (place / way).mkdir()
            figures[way] = timed(sys.executable, __file__, "plain", place / "ball.ply", place / way, way)
        ours = timed(*vexel("capture", shot, "--to", place / "take"))
        for way, name in (("same", "the same pictures"), ("own", "the plotter's own anti-aliasing")):
            ratio = figures[way] / ours
            tell(
                f"object capture, 48 frames 1080p, against a plain script with {name}",
                f"{figures[way]:.1f} s / {ours:.1f} s = {ratio:.2f} times as fast",
                "1.5 times",
                ratio >= 1.5,
            )


if __name__ == "__main__":
    plain(*sys.argv[2:]) if sys.argv[1:2] == ["plain"] else main()
