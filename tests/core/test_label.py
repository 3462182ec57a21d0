"""Labels: text with numbers in it."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests.helpers import shot_document
from vexel.core.document.label import fields_of, written
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.lanes.dial import Dial


class TextTest(unittest.TestCase):
    @given(st.floats(-1e6, 1e6), st.sampled_from([".2f", "+.1f", "08.3f", ",.0f", ".1%", ".3e", "06d", "d"]))
    def test_a_form_is_that_of_pythons_numbers(self, value, form):
        expected = format(round(value) if form.endswith("d") else value, form)
        self.assertEqual(written(f"a {{x:{form}}} b", {"x": value}), f"a {expected} b")

    def test_plain_numbers_are_short_and_braces_may_be_written(self):
        self.assertEqual(written("{a} {b} {{c}} {t}", {"a": 3, "b": 0.1 + 0.2, "t": "00:01"}), "3 0.3 {c} 00:01")
        self.assertEqual(fields_of("{frame:04d} of {count} {{no}}"), ["frame", "count"])

    def test_refuses_what_is_no_field(self):
        for text, words in (
            ("{", "a brace has no partner"), ("{a.b}", "a brace has no partner"), ("{a!r}", "a brace has no partner"),
            ("{a:>9999}", "not a number format"), ("{a:.200f}", "not a number format"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(Mistake, words):
                fields_of(text)


class LabelsOfAShotTest(unittest.TestCase):
    def plan(self, labels, **parts):
        document = shot_document({"kind": "sketch", "file": "a.py"}, labels=labels, **parts)
        facts = SourceFacts((Dial("depth", 3, 0, 9),))
        return make_plan(
            read_shot_document(document), PlanInputs("e", SourceIdentity("sketch", "a.py", "d"), facts, Subject(None))
        )

    def texts(self, text, frames, **parts):
        plan = self.plan([{"text": text}], **parts)
        return [plan.frame_spec(n).labels[0].text for n in frames]

    def test_numbers_and_times_are_those_of_the_video(self):
        clock = {"rate": "30000/1001", "frames": 1810, "every": 1}
        self.assertEqual(self.texts("{timecode}", [0, 1800], clock=clock), ["00:00:00;00", "00:01:00;02"])
        held = {"rate": "24", "frames": 48, "hold_start": 24, "span": "ends"}
        self.assertEqual(
            self.texts("{frame} {seconds:.2f} {phase:.2f}", [0, 24, 71], clock=held),
            ["0 0.00 0.00", "24 1.00 0.00", "71 2.96 1.00"],
        )
        self.assertEqual(self.texts("{number:05d}/{count}", [2], names={"start": 1001}), ["01003/6"])
        self.assertEqual(self.texts("{timecode}", [3], clock={"rate": "12.5", "frames": 6}), ["0.240 s"])

    def test_dials_and_a_value_that_a_lane_drives(self):
        label = {"text": "{depth:.1f} m, {value:.0f} %", "name": "share", "value": 7}
        lanes = [{"drive": "label:share", "keys": [[0, 0], [1, 60]]}, {"drive": "dial:depth", "keys": [[0, 0], [1, 6]]}]
        plan = self.plan([label], lanes=lanes)
        self.assertEqual([plan.frame_spec(n).labels[0].text for n in (0, 3)], ["0.0 m, 0 %", "3.0 m, 30 %"])
        self.assertEqual(self.plan([label]).frame_spec(0).labels[0].text, "3.0 m, 7 %")

    def test_none_without_being_asked_and_frames_that_say_the_same_are_one(self):
        self.assertEqual(self.plan([]).frame_spec(0).labels, ())
        plan = self.plan([{"text": "Tern Point"}])
        self.assertEqual(plan.frame_spec(0).key, plan.frame_spec(5).key)
        plan = self.plan([{"text": "{frame}"}])
        self.assertNotEqual(plan.frame_spec(0).key, plan.frame_spec(5).key)

    def test_refuses_names_that_are_not_there(self):
        with self.assertRaisesRegex(Mistake, r"labels\[0\]: {dept} is unknown; did you mean depth"):
            self.plan([{"text": "{dept}"}])
        with self.assertRaisesRegex(Mistake, "lane label:a drives a label, but none has that name"):
            self.plan([], lanes=[{"drive": "label:a", "keys": [[0, 1]]}])
        with self.assertRaisesRegex(Mistake, "two labels are named a"):
            self.plan([{"text": "x", "name": "a"}, {"text": "y", "name": "a"}])


if __name__ == "__main__":
    unittest.main()
