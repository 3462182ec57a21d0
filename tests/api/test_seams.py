"""Whether loops close: said where it is known, measured on pictures where only they tell."""

import json
import unittest

from tests.helpers import Server, scratch, shot_document

SKETCH = """
@sketch
def thing(canvas, instant, size):
    import skia
    canvas.clear(0xFF202020)
    x = {place}
    canvas.drawRect(skia.Rect.MakeXYWH(x * (size[0] - 20), 10, 20, 20), skia.Paint(Color=0xFFFFFFFF))
"""
ROUND = "(1 - __import__('math').cos(2 * 3.141592653589793 * float(instant.phase))) / 2"
PAGE = """<body style="margin:0;background:#223"><style>
@keyframes go {{ 0% {{ left: 0 }} 50% {{ left: 60px }} 100% {{ left: 0 }} }}
div {{ position: absolute; width: 30px; height: 30px; background: #fff; animation: go {seconds}s infinite linear }}
</style><div></div></body>"""


class SeamTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        holder = type("Holder", (), {"addCleanup": staticmethod(cls.addClassCleanup)})
        cls.home = scratch(holder) / "home"
        (cls.home / "shots").mkdir(parents=True)
        cls.server = Server(cls, cls.home)
        cls.addClassCleanup(cls.server.end)

    def seam(self, name, content, kind, **parts):
        """What is known of a shot's seam before, and when it is measured."""
        suffix = {"page": ".html"}.get(kind, ".py")
        file = self.home / "shots" / f"{name}{suffix}"
        header = "import pyvista as pv\nfrom vexel.author import dial, model, simulation, sketch\n"
        file.write_text(content if kind == "page" else header + content)
        document = shot_document({"kind": kind, "file": file.name}, frames=24, **parts)
        (self.home / "shots" / f"{name}.json").write_text(json.dumps(document))
        _, source = self.server.ask(f"/api/shots/{name}/source")
        _, measured = self.server.ask(f"/api/shots/{name}/seam", {})
        return source["seam"]["state"], measured["seam"]

    def test_what_only_pictures_tell_is_measured(self):
        for name, content, kind, state in (
            ("round", SKETCH.format(place=ROUND), "sketch", "closes"),
            ("across", SKETCH.format(place="float(instant.phase)"), "sketch", "open"),
            # Nearly round: it ends a tenth of the way before its beginning.
            ("nearly", SKETCH.format(place=ROUND.replace("2 * 3.14", "1.8 * 3.14")), "sketch", "open"),
            ("page", PAGE.format(seconds=2), "page", "closes"),
            ("page-longer", PAGE.format(seconds=3), "page", "open"),
            ("turns", "@model\ndef thing(instant=None):\n    return pv.Cone(height=1 + float(instant.phase))\n",
             "model", "open"),
        ):  # fmt: skip
            with self.subTest(name):
                before, seam = self.seam(name, content, kind)
                self.assertEqual((before, seam["state"]), ("source", state), seam)
                self.assertTrue(seam["what"].startswith("measured: "), seam)

    def test_the_colour_of_what_is_clear_does_not_count(self):
        """Every frame has another colour where nothing is seen."""
        clear = SKETCH.format(place="0.5").replace("canvas.clear(0xFF202020)", "pass").replace(
            "canvas.drawRect",
            "import numpy as np\n    colour = np.full((40, 60, 3), instant.frame * 9 % 256)\n"
            "    return np.dstack([colour, np.zeros((40, 60))]).astype(np.uint8)\n    canvas.drawRect",
        )  # fmt: skip
        picture = {"width": 96, "height": 64, "samples": 1, "background": "transparent"}
        self.assertEqual(self.seam("clear", clear, "sketch", picture=picture)[1]["state"], "closes")

    def test_what_the_document_tells_is_not_measured(self):
        still = "@model\ndef thing():\n    return pv.Cone()\n"
        before, seam = self.seam("still", still, "model")
        self.assertEqual((before, seam["state"]), ("closes", "closes"))
        turned = {"camera": {"rig": {"kind": "orbit", "turns": 0.5}}}
        self.assertEqual(self.seam("half", still, "model", **turned)[0], "open")
        # A second camera that goes half round.
        second = {"name": "side", "rig": {"kind": "orbit", "turns": 0.5}}
        self.assertEqual(self.seam("second", still, "model", cameras=[second])[0], "open")
        ends = {"clock": {"rate": "12", "frames": 24, "span": "ends"}}
        self.assertEqual(self.seam("once", still, "model", **ends)[1]["state"], "none")


if __name__ == "__main__":
    unittest.main()
