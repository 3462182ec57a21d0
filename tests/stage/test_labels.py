"""Text on frames: shaped as another shaper does, in the right direction, in lines, and within the frame."""

import unittest
from pathlib import Path
from unittest import mock

import matplotlib
import numpy as np
from PIL import Image, ImageDraw, ImageFont, features

from tests.helpers import shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.document.label import Label
from vexel.core.document.shot import read_shot_document
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.reel.item_spec import LayoutItem
from vexel.core.reel.reel_plan import plan_reel
from vexel.core.reel.reel_spec import Reel
from vexel.output.reel.reel_texts import texts_of
from vexel.sources.pictures import fonts
from vexel.sources.pictures.fonts import SHIPPED, fonts_of, missing_in
from vexel.stage.label_findings import label_findings
from vexel.stage.labels import labelled
from vexel.stage.text_block import lay_out

SIZE = 80
DEJAVU = Path(matplotlib.get_data_path(), "fonts/ttf/DejaVuSans.ttf")
WIDE, HIGH = 1200, 400


def drawn(text, at=(0.5, 0.5), size=SIZE / HIGH, align="middle", **more):
    black = np.zeros((HIGH, WIDE, 4), np.uint8)
    black[..., 3] = 255
    return labelled(black, (Label(text, at, size, "#ffffff", align, **more),))[..., :3]


def ink(picture, level=60):
    rows, columns = np.nonzero(picture.max(axis=2) > level)
    return rows.min(), rows.max() + 1, columns.min(), columns.max() + 1


def cut(picture):
    top, bottom, left, right = ink(picture)
    return picture[top:bottom, left:right].max(axis=2).astype(float)


def likeness(one, other):
    """Correlation of what is drawn, when one is laid on the other's box."""
    high, wide = (max(a, b) for a, b in zip(one.shape, other.shape, strict=True))
    one, other = (np.pad(p, ((0, high - p.shape[0]), (0, wide - p.shape[1]))) for p in (one, other))
    return np.corrcoef(one.ravel(), other.ravel())[0, 1]


class ShapingTest(unittest.TestCase):
    """Against Pillow's layout by Raqm, which is HarfBuzz and FriBidi."""

    def theirs(self, text, font, engine=ImageFont.Layout.RAQM):
        image = Image.new("L", (WIDE, HIGH))
        face = ImageFont.truetype(str(font), SIZE, layout_engine=engine)
        ImageDraw.Draw(image).text((40, 100), text, fill=255, font=face)
        return cut(np.asarray(image)[..., None])

    def test_scripts_are_shaped_as_by_another_shaper(self):
        self.assertTrue(features.check("raqm"))
        chinese, deva = SHIPPED / "wqy-microhei.ttc", SHIPPED / "Lohit-Devanagari.ttf"
        for text, font, is_plain in (
            ("Whorls fit AV", DEJAVU, True), ("Стрелка", DEJAVU, True), ("שלום עולם", DEJAVU, False),
            ("مرحبا بالعالم", DEJAVU, False), ("نص 12 رقم", DEJAVU, False), ("שלום, 3.", DEJAVU, False),
            ("क्षत्रिय हिन्दी", deva, False), ("नमस्ते", deva, False), ("中文字符", chinese, True),
            ("日本語かな", chinese, True), ("한국어", chinese, True),
        ):  # fmt: skip
            with self.subTest(text):
                ours, theirs = cut(drawn(text)), self.theirs(text, font)
                self.assertAlmostEqual(ours.shape[1], theirs.shape[1], delta=4)
                self.assertGreater(likeness(ours, theirs), 0.87)
                if not is_plain:
                    # What this would not tell apart from the right one, it could not test.
                    unshaped = self.theirs(text, font, ImageFont.Layout.BASIC)
                    self.assertLess(likeness(ours, unshaped), 0.75)

    def test_emoji_are_in_colour_and_symbols_are_not(self):
        for text, coloured in (
            ("😀", True), ("❤\ufe0f", True), ("🇫🇮", True), ("1\ufe0f\u20e3", True), ("👩🏽\u200d🚀", True),
            ("❤", False), ("1", False), ("☔\ufe0e", False),
        ):  # fmt: skip
            with self.subTest(text):
                picture = drawn(text).astype(int)
                spread = (picture.max(axis=2) - picture.min(axis=2)).max()
                self.assertEqual(spread > 60, coloured)
                left, right = ink(picture)[2:]
                self.assertLess(right - left, 1.6 * SIZE, "one sign")


class LayoutTest(unittest.TestCase):
    def test_lines_are_broken_at_the_edge_and_where_the_text_says(self):
        word, long = "word ", "中文没有空格" * 12
        self.assertEqual(lay_out(Label("a\nb\r\nc\u2028d", (0.5, 0.5), 0.1, "#ffffff", "left"), WIDE, HIGH).lines, 4)
        for align, at in (("left", 0.03), ("middle", 0.5), ("right", 0.97), ("left", 0.8), ("middle", 0.9)):
            for text in (word * 30, long, "x" * 100):
                with self.subTest(align=align, at=at, text=text[:3]):
                    picture = drawn(text, (at, 0.5), 0.05, align)
                    top, bottom, left, right = ink(picture)
                    self.assertGreater(min(top, left, HIGH - bottom, WIDE - right), 1)
                    self.assertGreater(bottom - top, 0.09 * HIGH, "several lines")

    def test_no_label_leaves_the_frame(self):
        for at in ((0, 0), (1, 1), (0, 1), (1, 0), (0.5, 0), (0.5, 1)):
            for align in ("left", "middle", "right"):
                for text in ("Åg", "Åg\nÅg"):
                    with self.subTest(at=at, align=align, text=text):
                        one, there = cut(drawn(text, (0.5, 0.5), 0.1)), cut(drawn(text, at, 0.1, align))
                        self.assertLessEqual(np.abs(np.subtract(one.shape, there.shape)).max(), 1)

    def test_a_line_stands_with_its_capitals_around_its_place(self):
        for text in ("H", "H 中 😀 हि"):
            top, bottom, left, _ = ink(drawn(text, (0.25, 0.3), 0.1, "left")[:, : WIDE // 4 + 30])
            self.assertAlmostEqual((top + bottom) / 2, 0.3 * HIGH, delta=1)
            self.assertAlmostEqual(left, 0.25 * WIDE, delta=5)
        block = lay_out(Label("a\n\nb", (0.5, 0.5), 0.1, "#ffffff", "left"), WIDE, HIGH)
        self.assertEqual(block.lines, 3, "an empty line is one too")

    def test_what_does_not_fit_is_smaller_and_is_a_finding(self):
        tall = Label("one\n" * 20, (0.5, 0.5), 0.1, "#ffffff", "left")
        caption = Label("a caption that is much wider than its cell", (0.2, 0.8), 0.05, "#ffffff", "middle", 0.2, 1)
        for label, lines in ((tall, 21), (caption, 1)):
            block = lay_out(label, WIDE, HIGH)
            self.assertEqual(block.lines, lines)
            self.assertLess(block.size, 0.9 * label.size * HIGH)
            (finding,) = label_findings([label, label], WIDE, HIGH)
            self.assertEqual(finding.name, "text-smaller")
        left, right = ink(drawn(caption.text, caption.at, caption.size, "middle", room=0.2, lines=1))[2:]
        self.assertGreaterEqual(left, 0.1 * WIDE - 1)
        self.assertLessEqual(right, 0.3 * WIDE + 1)

    def test_what_no_font_has_is_named(self):
        with mock.patch.object(fonts, "_of_system", return_value=None):
            fonts.faces_for.cache_clear()
            label = Label("ok \U00010900 中", (0.5, 0.5), 0.1, "#ffffff", "left")
            (finding,) = label_findings([label], WIDE, HIGH)
            self.assertEqual(finding.name, "text-without-font")
            self.assertIn("\U00010900 (U+10900), in the text", finding.what)
        fonts.faces_for.cache_clear()
        marks_and_controls = "a\t\n\u200d\u0301 नमस्ते 中 שָׁלוֹם 😀🏽 \ufe0f\u202e"
        self.assertEqual(missing_in(marks_and_controls), "")
        for text in ("\x00\x07a", "\ud800a", "\u202e\u2066" * 50 + "a", "a" + "\u0301" * 150, "\u200d" * 200, " "):
            drawn(text)

    def test_texts_of_a_reel_are_looked_at(self):
        title = {"kind": "title", "seconds": 2.0, "text": "one\n" * 40}
        layout = {"kind": "layout", "cells": [{"item": title | {"text": ""}, "caption": "wide " * 30}] * 2}
        LayoutItem.model_validate(layout)
        reel = Reel.model_validate({"title": "R", "items": [title, layout], "labels": [{"text": "L {frame}"}]})
        texts = list(texts_of(plan_reel(reel, {})))
        self.assertEqual(sum(label.text.startswith("L ") for label in texts), 2)
        found = [finding.what for finding in label_findings(texts, reel.width, reel.height)]
        self.assertEqual(len(found), 2)
        self.assertEqual(["'one one" in found[0], "'wide" in found[1]], [True, True])

    def test_the_fonts_of_a_text_are_part_of_its_frames(self):
        self.assertEqual(fonts_of(["plain", "Åé", "שלום"]), ())
        one, both = fonts_of(["中"]), fonts_of(["中", "हि"])
        self.assertEqual((len(one), len(both)), (1, 2))
        self.assertNotEqual(fonts_of(["😀"]), one)
        shot = read_shot_document(shot_document({"kind": "object", "file": "a.obj"}, labels=[{"text": "a\nb"}]))
        source, facts = SourceIdentity("object", "a.obj", "d"), SourceFacts()
        bases = (
            PlanInputs("e", source, facts, Subject(Sphere((0, 0, 0), 1)), fonts=found) for found in ((), one, both)
        )
        self.assertEqual(len({make_plan(shot, inputs).frame_spec(0).key for inputs in bases}), 3)
        self.assertEqual(shot.labels[0].text, "a\nb")


if __name__ == "__main__":
    unittest.main()
