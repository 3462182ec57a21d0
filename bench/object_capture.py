"""(a) Capture of an object turning, against a plain single-process PyVista script.

Both make 48 frames at 1080p of the same 179,000 triangles from the same
camera, and write PNG files. The plain script is
what one writes by hand: a plotter, its screenshot, one frame after the other.
It is timed twice: with the same pictures (four jittered renders a frame, their
mean written, and our own shader for the light), and in the plotter's own way: its
light kit and its anti-aliasing.

The plain script is not single-core: Mesa threads by itself, so that two
processes win only what one leaves idle. Of ours, some seconds are the start,
then 0.75 s a frame and worker, 0.55 s of them rendering.
"""

import sys
from math import cos, pi, radians, sin
from pathlib import Path
from statistics import median

import numpy as np

from common import folder, object_shot, tell, timed, vexel

FRAMES = 48
ROUNDS = 2


def plain(mesh_file: str, out: str, way: str) -> None:
    """The plain script; it borrows numbers for light, surface and camera, so that the pictures are the same."""
    import pyvista as pv
    from PIL import Image

    from vexel.core.camera.framing import distance_to_fill, sphere_about
    from vexel.core.camera.lens import Lens
    from vexel.core.camera.sample_positions import sample_offsets
    from vexel.stage.scene.light import CLAY, LIT, set_gives, set_key, set_turn, shade_code
    from vexel.stage.scene.part_actors import SHARP_EDGE_DEG

    mesh = pv.read(mesh_file)
    sphere, view = sphere_about([mesh.points]), Lens(50, 36, 24).view_deg(1920, 1080)[1]
    distance, middle = distance_to_fill(sphere.radius, 0.8, view), np.array(sphere.centre)
    plotter = pv.Plotter(off_screen=True, window_size=(1920, 1080), lighting="light kit" if way == "own" else "none")
    plotter.render_window.SetMultiSamples(4 if way == "own" else 0)
    plotter.set_background("#2b2f33")
    mesh = mesh.compute_normals(cell_normals=False, split_vertices=True, feature_angle=SHARP_EDGE_DEG)
    actor = plotter.add_mesh(mesh, color=CLAY, smooth_shading=True)
    if way == "same":
        plotter.renderer.AddLight(pv.Light(light_type="headlight"))
        actor.GetShaderProperty().AddFragmentShaderReplacement("//VTK::Light::Impl", True, shade_code(), False)
        set_gives(actor, LIT, None)
        set_turn(actor, None)
        set_key(actor, {})
    camera, offsets = plotter.renderer.GetActiveCamera(), sample_offsets(4)
    plotter.show(auto_close=False)
    camera.SetViewAngle(view)  # showing has framed the mesh its own way
    for frame in range(FRAMES):
        a, e = 2 * pi * frame / FRAMES, radians(18)
        away = np.array([cos(e) * sin(a), -cos(e) * cos(a), sin(e)])
        camera.SetPosition(*(middle + distance * away))
        camera.SetFocalPoint(*middle)
        camera.SetViewUp(0, 0, 1)
        camera.SetClippingRange(distance - 1.1 * sphere.radius, distance + 1.1 * sphere.radius)
        looks = []
        for x, y in offsets if way == "same" else [(0, 0)]:
            camera.SetWindowCenter(2 * x / 1920, 2 * y / 1080)
            plotter.render()
            looks.append(plotter.screenshot(return_img=True).astype(np.float32))
        Image.fromarray(np.rint(np.mean(looks, axis=0)).astype(np.uint8)).save(Path(out) / f"{frame:04d}.png")


def difference(place: Path, way: str) -> float:
    """Mean difference of the two's pictures, in codes of 255."""
    from PIL import Image

    pairs = [(place / way / f"{n:04d}.png", place / f"take/ball.shaded.{n:04d}.png") for n in (0, 20, 47)]
    return float(np.mean([np.abs(np.subtract(*(np.asarray(Image.open(f), float) for f in pair))) for pair in pairs]))


def main() -> None:
    """Time both and print the ratio."""
    with folder() as place:
        shot = object_shot(place, FRAMES)
        times: dict[str, list[float]] = {"same": [], "own": [], "ours": []}
        for _ in range(ROUNDS):
            # In turn, since the machine's speed drifts.
            for way in ("same", "own"):
                (place / way).mkdir(exist_ok=True)
                times[way].append(timed(sys.executable, __file__, "plain", place / "ball.ply", place / way, way))
                times["ours"].append(timed(*vexel("capture", shot, "--to", place / "take", "--fresh")))
        figures = {way: median(taken) for way, taken in times.items()}
        ours = figures["ours"]
        for way, name in (("same", "the same pictures"), ("own", "the plotter's own light and anti-aliasing")):
            ratio = figures[way] / ours
            assert way == "own" or difference(place, way) < 0.5, "the plain script made other pictures"
            tell(
                f"object capture, 48 frames 1080p, against a plain script with {name}",
                f"{figures[way]:.1f} s / {ours:.1f} s = {ratio:.2f} times as fast, "
                f"pictures differ by {difference(place, way):.2f} of 255 in the mean",
                "1.5 times",
                ratio >= 1.5,
            )


if __name__ == "__main__":
    plain(*sys.argv[2:]) if sys.argv[1:2] == ["plain"] else main()
