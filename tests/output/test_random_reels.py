"""Random reels, drawn and compared picture by picture with an independent model of what shows when."""

import json
import os
import random
import unittest
from fractions import Fraction

import cv2
import numpy as np

from tests.helpers import scratch
from tests.output.reel_model import EASES, Model, codes
from vexel.core.reel.reel_spec import read_reel
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.open_reel import open_reel
from vexel.output.reel.reel_footage import footage_of_reel

COUNT = 500 if "VEXEL_TEST_LONG" in os.environ else 60
SIZE = (32, 24)
MEDIA = {"a": 9, "b": 5, "c": 1, "d": 14}
SPEEDS = (1, 1, 2, 0.5, 3, 0.75, 1.3)
NEAR = 2.0
"""Codes that rounding in each of several transitions, one within another, may add up to."""


def code_of(name):
    base = "abcd".index(name)
    return lambda n: (20 + 15 * n, 60 + 50 * base, 240 - 13 * n)


class Documents:
    """Random documents of reels."""

    def __init__(self, seed):
        self.chance = random.Random(seed)
        self.reels = {}

    def maybe(self, name, values, share=0.35):
        return {name: self.chance.choice(values)} if self.chance.random() < share else {}

    def length(self):
        return self.maybe("frames", range(1, 12), 0.25) or self.maybe("seconds", (0.25, 0.5, 1.1), 0.15)

    def pace(self):
        return self.length() or self.maybe("speed", SPEEDS)

    def stills(self):
        name = self.chance.choice([*MEDIA])
        first = self.chance.randrange(MEDIA[name]) if self.chance.random() < 0.4 else 0
        item = {"kind": "stills", "file": name, "first": first}
        item |= self.maybe("last", range(first, MEDIA[name])) | self.maybe("rate", ("24", "12", "30", "30000/1001"))
        item |= self.maybe("order", ("backward", "there-and-back")) | self.maybe("repeat", (2, 3))
        item |= self.maybe("hold_start", (1, 3), 0.2) | self.maybe("hold_end", (1, 2), 0.2)
        return item | self.maybe("between", ("blend",)) | self.pace()

    def item(self, depth):
        kind = self.chance.choice(["stills"] * 4 + ["gap", "title"] + ["group", "reel"] * depth)
        if kind == "stills":
            item = self.stills()
        elif kind in ("gap", "title"):
            item = {"kind": kind, "frames": self.chance.randrange(1, 6)}
            item |= {"background": "#305070"} if kind == "title" else {}
        elif kind == "group":
            item = {"kind": "group", "items": self.items(depth - 1)} | self.maybe("repeat", (2, 3)) | self.pace()
            item |= self.maybe("ease", [*EASES])
        else:
            name = f"reel{len(self.reels)}.json"
            self.reels[name] = {}
            self.reels[name] = self.document(depth - 1)
            item = {"kind": "reel", "reel": name} | self.maybe("repeat", (2, 3)) | self.pace()
        transition = {"kind": self.chance.choice(["cut", "cross-dissolve", "dip-to-colour", "wipe", "slide"])}
        if transition["kind"] != "cut":
            transition |= {"frames": self.chance.randrange(1, 6)} | self.maybe("ease", [*EASES])
        if transition["kind"] in ("wipe", "slide"):
            transition |= self.maybe("towards", ("left", "right", "up", "down"), 0.8)
        if transition["kind"] == "dip-to-colour":
            transition |= self.maybe("colour", ("#ffffff", "#802010"))
        return item | {"transition": transition}

    def items(self, depth):
        return [self.item(depth) for _ in range(self.chance.randrange(1, 4))]

    def document(self, depth):
        rate = self.chance.choice(["24", "24", "24", "12", "30", "24000/1001"])
        whole = {"title": "Random", "rate": rate, "background": "#203040", "items": self.items(depth)}
        return whole | {"width": SIZE[0], "height": SIZE[1]} | (self.length() if self.chance.random() < 0.5 else {})


class RandomReelsTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.media = {}
        for name, count in MEDIA.items():
            (self.folder / name).mkdir()
            self.media[name] = count, code_of(name)
            for n in range(count):
                picture = np.full((SIZE[1], SIZE[0], 3), code_of(name)(n)[::-1], np.uint8)
                cv2.imwrite(str(self.folder / name / f"f.{n:03d}.png"), picture)

    def test_each_frame_is_what_the_model_says(self):
        frames = 0
        for seed in range(COUNT):
            with self.subTest(seed=seed):
                frames += self.compared(seed)
        self.assertGreater(frames, 10 * COUNT)

    def compared(self, seed):
        made = Documents(seed)
        document = made.document(3)
        for name, reel in made.reels.items():
            (self.folder / name).write_text(json.dumps(reel))
        reel = open_reel(read_reel(json.dumps(document)), FolderLibrary(self.folder), self.folder)
        models = [Model(document, self.media, made.reels, SIZE, Fraction(n, 10**6)) for n in (0, 1, -1)]
        self.assertEqual(reel.plan.frames, models[0].count, "frames")
        footage = footage_of_reel(reel)
        for number in range(reel.plan.frames):
            picture = footage.picture(number)[..., :3].astype(float)
            wrong = [np.abs(picture - codes(model.picture(Fraction(number)))).max() for model in models]
            self.assertLess(min(wrong), NEAR, f"frame {number} of {reel.plan.frames}: {json.dumps(document)[:3000]}")
        return reel.plan.frames

    def test_the_model_tells_a_frame_that_is_one_off(self):
        document = {"rate": "24", "items": [{"kind": "stills", "file": "d"}, {"kind": "stills", "file": "a"}]}
        model = Model(document, self.media, {}, SIZE)
        for number in range(model.count - 1):
            one, next_one = (codes(model.picture(Fraction(number + k))) for k in (0, 1))
            self.assertGreater(np.abs(one - next_one).max(), NEAR)


if __name__ == "__main__":
    unittest.main()
