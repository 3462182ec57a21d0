"""What is clear looks the same by every way: on a colour at once, or clear and then over it in a file.

The reference is source over (Porter and Duff, 1984) on linear light (IEC 61966-2-1), worked out here; videos are
decoded by Debian's ffmpeg. With VEXEL_TEST_LONG all kinds go all ways; else each kind goes some of them.
"""

import base64
import io
import json
import re
import subprocess
import unittest
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from tests import LONG
from tests.helpers import HEADER, plan_on, scratch, shot_document
from tests.sources.test_points import scan
from vexel.core.document.background import rgb
from vexel.core.document.shot import read_shot_document
from vexel.core.evaluate.source_facts import SourceAt
from vexel.core.recipes.recipe import read_recipe
from vexel.core.recipes.shipped import recipe_named
from vexel.core.reel.reel_spec import read_reel
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.imaging.images import picture_in
from vexel.imaging.transfer import encoded_light, linear
from vexel.output.compiling.compile import compile_footage
from vexel.output.footage.footage import Footage
from vexel.output.reading.picture_file import read_picture
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.open_reel import open_reel
from vexel.output.reel.reel_footage import footage_of_reel
from vexel.stage.renderer import Renderer

WIDE, HIGH = 96, 72
LABEL = [{"text": "Hg 中 😀", "at": [0.1, 0.85], "size": 0.2, "colour": "#f0e040"}]
SURFACES = (
    "@model\ndef clear():\n"
    "    return [part(pv.Sphere(center=(0, 0, 1)), colour='#c8442e', opacity=0.5, name='one'),\n"
    "            part(pv.Cube(center=(1, 0, 0.5)), colour='#4060c0', name='two')]\n"
)
SKETCH = (
    "from vexel.author import sketch\nimport skia\n\n@sketch\ndef drawn(canvas, size):\n"
    "    paint = lambda colour: skia.Paint(Color=colour, AntiAlias=True)\n"
    "    canvas.drawCircle(size[0] * 0.4, size[1] * 0.4, size[1] * 0.3, paint(0x80e04020))\n"
    "    canvas.drawCircle(size[0] * 0.7, size[1] * 0.5, size[1] * 0.2, paint(0xffffffff))\n"
)
PAGE = (
    "<body style='margin:0'><div style='position:absolute;left:10%;top:10%;width:50%;height:50%;border-radius:50%;"
    "background:rgba(224,64,32,.5)'></div><div style='font:30px sans-serif;color:#fff;padding:20px'>Abc</div>"
)
KINDS = ("surfaces", "scan", "sketch", "page", "pushed")
FORMATS = ("png", "png16", "exr")
COLOURS = ("#ffffff", "#000000", "#3080c0")
WAYS = ("laid", "file", "tiff", "exr", "prores", "webm", "reel", "page")
LOSSY = {"prores": 2, "webm": 9, "page": 5}
"""Ways that lose fine detail and colour of single pixels: by how many codes `softened` pictures may differ."""


def laid(light, colour):
    """Premultiplied light over a colour, as codes of 8 bits."""
    behind = linear(np.array(rgb(colour)) / 255)
    return np.rint(255 * encoded_light(np.clip(light[..., :3] + behind * (1 - light[..., 3:]), 0, 1)))


def softened(codes):
    """Brightness (Rec. 709) as the mean of 7 × 7 pixels: files keep colours at half the resolution."""
    return cv2.blur(codes @ np.array([0.2126, 0.7152, 0.0722]), (7, 7))


def premultiplied(codes):
    """Light of straight codes from 0 to 1."""
    return np.concatenate([linear(codes[..., :3]) * codes[..., 3:], codes[..., 3:]], axis=-1)


def light_in(file):
    """Premultiplied light of a picture file."""
    picture = picture_in(file)
    return picture if picture.dtype == np.float32 else premultiplied(picture / 255)


def decoded(file, *options):
    """The first picture of a video, by Debian's ffmpeg, as premultiplied light."""
    call = ["ffmpeg", "-v", "error", *options, "-i", str(file), "-frames:v", "1"]
    call += ["-vf", "scale=in_range=auto:out_range=full:flags=accurate_rnd+full_chroma_int", "-pix_fmt", "rgba64le"]
    data = subprocess.run([*call, "-f", "rawvideo", "-"], check=True, capture_output=True).stdout
    return premultiplied(np.frombuffer(data, "<u2").reshape(HIGH, WIDE, 4) / 65535)


class LightMatrixTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.stage = Renderer()

    def source(self, kind):
        """Kind of the document, file, options and what the shot has beside."""
        folder = scratch(self)
        if kind == "scan":
            chance = np.random.default_rng(2)
            rows = [(chance.normal(size=3) / 2, chance.uniform(size=3), 0.5, (0.15, 0.3, 0.2), (1, 0, 0, 0))
                    for _ in range(30)]  # fmt: skip
            return "object", scan(self, rows), {"up": "z"}, {}
        if kind == "pushed":
            y, x = np.mgrid[:HIGH, :WIDE]
            codes = np.stack([x * 2, y * 3, 200 + 0 * x, np.clip((x - 10) * 4, 0, 255)], axis=-1).astype(np.uint8)
            Image.fromarray(codes).save(folder / "p.0000.png")
            return "stills", folder / "p.0000.png", {"rate": "24"}, {}
        name, text = {"surfaces": ("thing.py", HEADER + SURFACES), "sketch": ("thing.py", SKETCH),
                      "page": ("page.html", PAGE)}[kind]  # fmt: skip
        (folder / name).write_text(text)
        shadows = {"light": {"shadow": 0.8}, "camera": {"rig": {"kind": "still", "elevation_deg": 25}}}
        return {"surfaces": "model"}.get(kind, kind), folder / name, {}, shadows if kind == "surfaces" else {}

    def frame(self, source, background, form="png"):
        """A frame's file."""
        kind, file, options, beside = source
        parts = {"width": WIDE, "height": HIGH, "samples": 4, "background": background, "format": form}
        document = shot_document({"kind": kind, "file": str(file), **options}, 1, labels=LABEL, **beside)
        document["picture"] = parts | ({"ground": True} if beside else {})
        shot = read_shot_document(document)
        at = SourceAt(kind, file, shot.source.options())
        recipe = plan_on(self.stage, shot, at, (WIDE, HIGH)).frame_spec(0)
        made = scratch(self) / f"f.0000.{'exr' if form == 'exr' else 'png'}"
        made.write_bytes(self.stage.encoded(at, recipe))
        return made

    def compiled(self, file, recipe):
        receipt = compile_footage(Footage((file,), Clock(Rate.parse("24"), 1)), scratch(self) / "out", recipe)
        self.assertTrue(receipt.holds, receipt)
        made = Path(receipt.file)
        return next(made.iterdir()) if made.is_dir() else made

    def by(self, way, file, colour):
        """A clear frame over a colour by one of the ways; codes of 8 bits."""
        if way == "laid":
            return laid(light_in(file), colour)
        if way == "reel":
            items = [{"kind": "stills", "file": str(file), "frames": 1}]
            parts = {"title": "r", "width": WIDE, "height": HIGH, "background": colour, "items": items}
            reel = open_reel(read_reel(json.dumps(parts)), FolderLibrary(file.parent), file.parent)
            return footage_of_reel(reel).picture(0)[..., :3].astype(float)
        if way in ("file", "page"):
            own = {"container": "page", "codec": "frames", "page": {"turns": True}} if way == "page" else {
                "container": "folder", "codec": "png"}  # fmt: skip
            document = {"name": "own", "alpha": "drop", "ground": colour, **own}
            made = self.compiled(file, read_recipe(json.dumps(document)))
            if way == "file":
                return read_picture(made)[..., :3] / (257 if read_picture(made).dtype == np.uint16 else 1)
            data = re.search(r"data:image/webp;base64,([\w+/=]+)", made.read_text())[1]
            return np.asarray(Image.open(io.BytesIO(base64.b64decode(data))).convert("RGB"), float)
        named = {"tiff": "tiff16", "exr": "exr", "prores": "prores-4444", "webm": "vp9-alpha"}[way]
        made = self.compiled(file, recipe_named(named))
        if way == "webm":
            return laid(decoded(made, "-c:v", "libvpx-vp9"), colour)
        return laid(decoded(made) if way == "prores" else light_in(made), colour)

    def test_every_way_gives_the_picture_on_the_colour(self):
        for number, kind in enumerate(KINDS):
            source = self.source(kind)
            direct = {colour: read_picture(self.frame(source, colour))[..., :3].astype(float) for colour in COLOURS}
            for colour in COLOURS:
                gradient = read_picture(self.frame(source, f"{colour} {colour}"))[..., :3]
                self.assertLessEqual(np.abs(direct[colour] - gradient).max(), 2, f"{kind}, a gradient of {colour}")
            for place, form in enumerate(FORMATS):
                clear = self.frame(source, "transparent", form)
                for turn, way in enumerate(WAYS):
                    if not LONG and (number + place + turn) % 5:
                        continue
                    for colour in COLOURS if LONG else COLOURS[turn % 3 :][:1]:
                        with self.subTest(kind=kind, form=form, way=way, colour=colour):
                            self.check(self.by(way, clear, colour), direct[colour], way, clear, colour)

    def check(self, found, direct, way, clear, colour):
        if way in LOSSY:
            self.assertLessEqual(np.abs(softened(found) - softened(direct)).max(), LOSSY[way])
            return
        # Half a step of 8 bits of alpha is up to 7 codes of a bright colour on black.
        light = light_in(clear).astype(float)
        deep = clear.suffix == ".exr" and way in ("laid", "exr")
        half = 0 if deep else np.minimum(0.5 / 255, light[..., 3:])
        ends = (laid(light * (1 + sign * half / np.maximum(light[..., 3:], 1e-9)), colour) for sign in (-1, 1))
        room = 3 + np.abs(np.subtract(*ends))
        self.assertLessEqual((np.abs(found - direct) - room).max(), 0)

    def test_a_picture_that_was_blended_as_codes_would_be_seen(self):
        source = self.source("surfaces")
        codes = read_picture(self.frame(source, "transparent")) / 255
        for colour in COLOURS:
            behind = np.array(rgb(colour)) / 255
            wrong = 255 * (codes[..., :3] * codes[..., 3:] + behind * (1 - codes[..., 3:]))
            direct = read_picture(self.frame(source, colour))[..., :3].astype(float)
            self.assertGreater(np.abs(softened(wrong) - softened(direct)).max(), 15)


if __name__ == "__main__":
    unittest.main()
