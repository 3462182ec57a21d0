"""A small project for each kind of source, and changes to what its frames depend on, for tests of identity."""

import io
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from tests.helpers import shot_document

READS = """
from pathlib import Path
import json
import numpy as np
from helper import shade
from pack.inner import lift

HERE = Path(__file__).parent


def told(size):
    data = float((HERE / "data" / "value.txt").read_text())
    parts = sum(float(file.read_text()) for file in sorted((HERE / "parts").glob("*.txt")))
    table = json.load(open(HERE / "table.json"))["lift"]
    outside = float(open({outside!r}).read())
    return np.clip(shade(size) + lift() + data + parts + table + outside, 0.05, 0.95)
"""
MODEL = """import pyvista as pv
from vexel.author import dial, model, part
{reads}

@model
def thing(size=dial(0.2, 0.0, 0.4), seconds=0.0):
    value = told(size + 0.05 * float(seconds))
    return [part(pv.Cone(height=0.5 + value, resolution=7), colour="#80a0c0", name="cone")]
"""
SKETCH = """from vexel.author import dial, sketch
{reads}

@sketch
def picture(random, seconds, size=dial(0.2, 0.0, 0.4)):
    grey = told(size) + 0.02 * float(seconds) + 0.02 * random.random()
    image = np.full((48, 64, 4), (grey, grey, grey, 1.0))
    image[:16, :16, 3] = 0
    return np.clip(image, 0, 1)
"""
SIMULATION = """from vexel.author import dial, simulation
{reads}

@simulation(step=0.1)
class Counter:
    size = dial(0.2, 0.0, 0.4)

    def start(self, random):
        return {{"value": told(self.size) + 0.02 * random.random()}}

    def advance(self, state):
        state["value"] = state["value"] * 0.97

    def show(self, state, gain=dial(1.0, 0.1, 2.0)):
        return np.full((48, 64), np.clip(gain * state["value"], 0, 1))
"""
DRAW = """from vexel.author import dial, sketch
{reads}

@sketch
def row(slice, size=dial(0.2, 0.0, 0.4)):
    return np.full((48, 64), np.clip(told(size) + 0.01 * float(slice["level"][0]), 0, 1))
"""
PAGE = """<link rel=stylesheet href=style.css><body><div id=b></div><img src=mark.png>
<script type="application/json" id="vexel-dials">{"size": {"default": 10, "low": 0, "high": 40}}</script>
<script src=move.js></script>"""


def picture(seed, size=(64, 48)):
    return np.random.default_rng(seed).integers(30, 220, (size[1], size[0], 3), np.uint8)


def png(seed):
    data = io.BytesIO()
    Image.fromarray(picture(seed, (16, 12))).save(data, "PNG")
    return data.getvalue()


def clip(file, seed, count=8):
    import av

    with av.open(str(file), "w") as out:
        stream = out.add_stream("ffv1", rate=12)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "bgr0"
        for n in range(count):
            frame = av.VideoFrame.from_ndarray(picture(seed + n), "rgb24")
            out.mux(stream.encode(frame))
        out.mux(stream.encode())


def with_code(folder, name, text):
    (folder / "outside").mkdir()
    outside = folder / "outside" / "level.txt"
    outside.write_text("0.02")
    own = folder / "own"
    for place in ("data", "parts", "pack"):
        (own / place).mkdir(parents=True)
    (own / name).write_text(text.format(reads=READS.format(outside=str(outside))))
    (own / "helper.py").write_text("def shade(size):\n    return size\n")
    (own / "pack" / "__init__.py").write_text("")
    (own / "pack" / "inner.py").write_text("from .level import LEVEL\n\n\ndef lift():\n    return LEVEL\n")
    (own / "pack" / "level.py").write_text("LEVEL = 0.03\n")
    (own / "data" / "value.txt").write_text("0.05")
    (own / "parts" / "a.txt").write_text("0.01")
    (own / "table.json").write_text('{"lift": 0.01}')
    (own / "unrelated.log").write_text("0")
    return own, {"file": name, "reads": [str(outside)]}


def project(kind, folder):
    """Write a project; its folder and the document of its shot."""
    own, source = folder / "own", {}
    own.mkdir(exist_ok=True)
    if kind in ("model", "sketch", "simulation"):
        text = {"model": MODEL, "sketch": SKETCH, "simulation": SIMULATION}[kind]
        own, source = with_code(folder, "thing.py", text)
    elif kind == "series":
        own, more = with_code(folder, "draw.py", DRAW)
        (own / "rows.csv").write_text("time,level\n" + "".join(f"{n / 12},{3 * n}\n" for n in range(8)))
        source = {"file": "rows.csv", "draw": "draw.py", "by": "time", "reads": more["reads"]}
    elif kind == "object":
        (own / "thing.obj").write_text(
            "mtllib thing.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1.5\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl a\n"
            "f 1/1 3/2 2/3\nf 1/1 2/2 4/3\nf 1/1 4/2 3/3\nf 2/1 3/2 4/3\n"
        )
        (own / "thing.mtl").write_text("newmtl a\nKd 0.9 0.8 0.7\nmap_Kd wood.png\n")
        (own / "wood.png").write_bytes(png(1))
        source = {"file": "thing.obj"}
    elif kind == "page":
        (own / "page.html").write_text(PAGE)
        (own / "style.css").write_text("body{margin:0;background:#223}#b{width:20px;height:20px;background:#f80}")
        (own / "move.js").write_text(
            "requestAnimationFrame(function f(t){b.style.marginLeft=vexelDials.size+t/20+'px';"
            "b.style.opacity=0.5+Math.random()/4;requestAnimationFrame(f)})"
        )
        (own / "mark.png").write_bytes(png(2))
        source = {"file": "page.html"}
    elif kind == "stills":
        for n in range(8):
            cv2.imwrite(str(own / f"s.{n:02d}.png"), picture(n))
        source = {"file": "s.00.png", "rate": "12"}
    else:
        clip(own / "clip.mkv", 10)
        source = {"file": "clip.mkv"}
    (own / "unrelated.log").write_text("0")
    cv2.imwrite(str(own / "back.png"), picture(77))
    document = shot_document({"kind": kind} | source, 8)
    document["picture"] = {"width": 64, "height": 48, "samples": 1, "background": "#203040"}
    return own, document


CODE = ("model", "sketch", "simulation", "series")
KINDS = ("model", "sketch", "simulation", "series", "object", "page", "stills", "clip")
GEOMETRY = ("model", "object")
FITTED = ("sketch", "stills", "clip", "page")


@dataclass(frozen=True)
class Change:
    """One change to what frames depend on, or to what they do not.

    Attributes
    ----------
    name : str
    kinds : tuple of str
        Kinds of source that it applies to.
    make : callable
        Takes the folder and the document, which it changes.
    shows : tuple of str
        Kinds whose pictures it must change; of the others it may.
    neutral : bool
        Whether all frames must be reused.
    before : callable or None
        Prepares the project.
    """

    name: str
    kinds: tuple[str, ...]
    make: Callable[[Path, dict], object]
    shows: tuple[str, ...] = ()
    neutral: bool = False
    before: Callable[[Path, dict], object] | None = None


def setting(path, value):
    """A change of the document at a path."""

    def change(folder, document):
        *way, last = path.split(".")
        part = document
        for name in way:
            part = part.setdefault(name, {})
        part[last] = value

    return change


def text(name, value):
    return lambda folder, document: (folder / name).write_text(value)


def data(name, value):
    return lambda folder, document: (folder / name).write_bytes(value)


def touched(folder, document):
    for file in folder.rglob("*"):
        if file.is_file():
            os.utime(file, ns=(file.stat().st_atime_ns, file.stat().st_mtime_ns + 10**9))


def appended(*names):
    def change(folder, document):
        for name in names:
            if (folder / name).exists():
                (folder / name).write_text((folder / name).read_text() + "\n# a remark\n")

    return change


def replaced(name, old, new):
    def change(folder, document):
        before = (folder / name).read_text()
        assert old in before, (name, old)
        (folder / name).write_text(before.replace(old, new))

    return change


def in_code(old, new):
    def change(folder, document):
        replaced("draw.py" if (folder / "draw.py").exists() else "thing.py", old, new)(folder, document)

    return change


def keyed(*keys, ease="linear"):
    return [{"drive": "dial:size", "keys": [list(key) for key in keys], "ease": ease}]


ROWS = "time,level\n" + "".join(f"{n / 12},{3 * n}\n" for n in range(8))
CHANGES = (
    # The clock.
    Change("rate", KINDS, setting("clock.rate", "10"), ("stills", "clip")),
    Change("length", KINDS, setting("clock.frames", 6)),
    Change("played once", KINDS, setting("clock.span", "ends")),
    Change("backwards", KINDS, setting("clock.order", "backward"), ("stills", "clip")),
    Change("a range", KINDS, setting("clock.first", 2), ("stills", "clip")),
    Change("every second frame", KINDS, setting("clock.every", 2), ("stills", "clip")),
    Change("held frames", KINDS, setting("clock.hold_start", 1), ("stills", "clip")),
    Change("speed", KINDS, setting("clock.speed", 2.0), ()),
    Change("an open shutter", ("model", "sketch", "object"), setting("clock.shutter", "180°")),
    Change("play count", KINDS, setting("clock.repeats", 3), neutral=True),
    # Dials and lanes.
    Change("a dial", CODE, setting("source.dials", {"size": 0.35}), CODE),
    Change("a dial of a page", ("page",), setting("source.dials", {"size": 30}), ("page",)),
    Change("a lane", ("model", "sketch", "series"), setting("lanes", keyed((0, 0.0), (1, 0.4))), ("model", "sketch")),
    Change(
        "a lane's easing", ("model", "sketch"), setting("lanes", keyed((0, 0.0), (1, 0.4), ease="ease-in")),
        ("model", "sketch"), before=setting("lanes", keyed((0, 0.0), (1, 0.4))),
    ),
    Change("the seed", ("sketch", "simulation", "page"), setting("source.seed", 9), ("sketch", "simulation", "page")),
    # The picture.
    Change("size", KINDS, setting("picture.width", 96), KINDS),
    Change("samples", KINDS, setting("picture.samples", 3), ("model", "object")),
    Change("background", KINDS, setting("picture.background", "#c04020"), ("model", "object", "sketch")),
    Change("two backgrounds", KINDS, setting("picture.background", "#c04020 #102030"), GEOMETRY),
    Change(
        "the image behind", GEOMETRY, lambda folder, document: cv2.imwrite(str(folder / "back.png"), picture(78)),
        GEOMETRY, before=setting("picture.background", "image:back.png"),
    ),
    Change("a pass", GEOMETRY, setting("picture.passes", ["normal"]), GEOMETRY),
    Change("format", KINDS, setting("picture.format", "png16"), KINDS),
    Change(
        "alpha", KINDS, setting("picture.alpha", "premultiplied"), before=setting("picture.background", "transparent")
    ),
    Change("the ground", GEOMETRY, setting("picture.ground", True), GEOMETRY),
    Change("a label", KINDS, setting("labels", [{"text": "frame {frame}", "size": 0.2}]), KINDS),
    Change("the title", KINDS, setting("title", "Another"), neutral=True),
    Change("the recipe", KINDS, setting("recipe", "gif"), neutral=True),
    # Camera and light.
    Change("the lens", GEOMETRY, setting("camera.lens", {"focal_mm": 85}), GEOMETRY),
    Change("parallel", GEOMETRY, setting("camera.lens", {"projection": "parallel"}), GEOMETRY),
    Change("the rig", GEOMETRY, setting("camera.rig", {"kind": "orbit", "turns": 1, "elevation_deg": 60}), GEOMETRY),
    Change("the light", GEOMETRY, setting("light.azimuth_deg", 90), GEOMETRY),
    Change("shadows", GEOMETRY, setting("light.shadow", 0.7), ("model",), before=setting("picture.ground", True)),
    Change("the surroundings", GEOMETRY, setting("light.environment", 0.8), GEOMETRY),
    # Code, and what it reads.
    Change("the code", CODE, in_code("np.clip(shade(size)", "np.clip(0.1 + shade(size)"), CODE),
    Change("a remark in the code", CODE, appended("thing.py", "draw.py")),
    Change("a module", CODE, text("helper.py", "def shade(size):\n    return size / 2\n"), CODE),
    Change("a module of a package", CODE, text("pack/level.py", "LEVEL = 0.2\n"), CODE),
    Change(
        "what a package begins with", CODE, text("pack/__init__.py", "from . import level\nlevel.LEVEL = 0.3\n"), CODE
    ),
    Change("a file that it opens", CODE, text("data/value.txt", "0.15"), CODE),
    Change("a file of the same length", CODE, text("data/value.txt", "0.09"), CODE),
    Change("a table", CODE, text("table.json", '{"lift": 0.2}'), CODE),
    Change("a file more in a folder that it lists", CODE, text("parts/b.txt", "0.2"), CODE),
    Change(
        "a file less in a folder that it lists", CODE, lambda folder, document: (folder / "parts/a.txt").unlink(), CODE
    ),
    Change("a file outside that it declares", CODE, text("../outside/level.txt", "0.2"), CODE),
    Change("a file that nothing reads", KINDS, text("unrelated.log", "1"), neutral=True),
    # Tables, clips and stills are known by their times, since they may be gigabytes.
    Change("times of files", ("model", "sketch", "simulation", "object", "page"), touched, neutral=True),
    # Meshes.
    Change("a vertex", ("object",), replaced("thing.obj", "v 0 0 1.5", "v 0 0 1.9"), ("object",)),
    Change("a material", ("object",), replaced("thing.mtl", "Kd 0.9 0.8 0.7", "Kd 0.2 0.8 0.7"), ("object",)),
    Change("a texture", ("object",), data("wood.png", png(5)), ("object",)),
    Change("another texture", ("object",), lambda folder, document: (
        (folder / "new.png").write_bytes(png(6)), replaced("thing.mtl", "wood.png", "new.png")(folder, document)
    ), ("object",)),
    Change("the axis that is up", ("object",), setting("source.up", "y"), ("object",)),
    # Pages.
    Change("a stylesheet", ("page",), replaced("style.css", "#f80", "#08f"), ("page",)),
    Change("a script", ("page",), replaced("move.js", "t/20", "t/10"), ("page",)),
    Change("an image of a page", ("page",), data("mark.png", png(7)), ("page",)),
    Change("an image in a style", ("page",), data("tile.png", png(9)), ("page",), before=lambda folder, document: (
        (folder / "tile.png").write_bytes(png(8)),
        replaced("style.css", "background:#223", "background:url(tile.png)")(folder, document),
    )),
    # Pictures, clips and data.
    Change("one of the stills", ("stills",), lambda folder, document: (
        cv2.imwrite(str(folder / "s.01.png"), picture(40))
    ), ("stills",)),
    Change("the rate of the stills", ("stills",), setting("source.rate", "6"), ("stills",)),
    Change("stills backwards", ("stills",), setting("source.reverse", True), ("stills",)),
    Change("a still less", ("stills",), lambda folder, document: (
        (folder / "s.01.png").unlink(), setting("source.gaps", "hold")(folder, document)
    ), ("stills",)),
    Change(
        "blended stills", ("stills", "clip"), setting("source.between", "blend"), (), before=setting("clock.rate", "17")
    ),
    Change("another clip", ("clip",), lambda folder, document: clip(folder / "clip.mkv", 60), ("clip",)),
    Change("a row of the table", ("series",), text("rows.csv", ROWS.replace(",3\n", ",30\n")), ("series",)),
    Change("a rate of the data", ("series",), setting("source.rate", "6"), ("series",)),
    Change("mixed data", ("series",), setting("source.between", "linear"), (), before=setting("source.rate", "5")),
    Change("the pace", ("simulation",), setting("source.pace", 3.0), ("simulation",)),
    Change("steps before", ("simulation",), setting("source.warm_up", 5), ("simulation",)),
)  # fmt: skip
