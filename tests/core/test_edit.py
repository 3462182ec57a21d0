"""Edits of a shot: every field of every part takes a patch, whatever the document on disk leaves unsaid."""

import json
import unittest

from pydantic import BaseModel

from tests.helpers import demo_home, shot_document
from vexel.core.document.rig_spec import OrbitSpec, PathSpec, StillSpec
from vexel.core.document.shot import edited, read_shot, read_shot_document
from vexel.core.document.stops_spec import StopsSpec
from vexel.core.merge_patch import merged
from vexel.store.documents.shots import spelled

SOURCES = ("model", "sketch", "simulation", "series", "object", "page", "stills", "clip")


def demo_shots():
    return [read_shot(file.read_text()) for file in sorted((demo_home() / "shots").glob("*.json"))]


def new_shots():
    """What a new shot of each kind is: all as usual, so that its document on disk says next to nothing."""
    more = {"stills": {"rate": "24"}}
    return [read_shot_document(shot_document({"kind": kind, "file": "a"} | more.get(kind, {}))) for kind in SOURCES]


def leaves(value: BaseModel, place=()):
    """Places of all fields, and of all parts of parts; a list is replaced as a whole."""
    for name in type(value).model_fields:
        held = getattr(value, name)
        yield (*place, name)
        if isinstance(held, BaseModel):
            yield from leaves(held, (*place, name))


def patch_at(place, value):
    for name in reversed(place):
        value = {name: value}
    return value


class EditTest(unittest.TestCase):
    def test_every_field_of_every_shot_takes_a_patch(self):
        for shot in (*demo_shots(), *new_shots()):
            # As it comes from the disk: lean.
            lean = read_shot(spelled(shot))
            whole = shot.model_dump(mode="json")
            for place in leaves(shot):
                value = whole
                for name in place:
                    value = value[name]
                with self.subTest(title=shot.title, place=place):
                    self.assertEqual(edited(lean, patch_at(place, value)), shot, "what it is already changes nothing")

    def test_every_number_of_every_new_shot_can_be_changed(self):
        for shot in new_shots():
            for place in leaves(shot):
                held = shot
                for name in place:
                    held = getattr(held, name)
                if isinstance(held, bool) or not isinstance(held, float) or place[0] == "clock":
                    continue
                with self.subTest(kind=shot.source.kind, place=place):
                    changed = edited(shot, patch_at(place, held * 0.5 + 0.25))
                    for name in place:
                        changed = getattr(changed, name)
                    self.assertAlmostEqual(changed, held * 0.5 + 0.25)

    def test_null_brings_the_usual_value_back(self):
        (shot,) = [shot for shot in new_shots() if shot.source.kind == "object"]
        turned = edited(shot, {"camera": {"rig": {"turns": 3, "elevation_deg": 60}}})
        back = edited(turned, {"camera": {"rig": {"turns": None}}})
        self.assertEqual((back.camera.rig.turns, back.camera.rig.elevation_deg), (1, 60))

    def test_a_part_of_another_kind_takes_nothing_over(self):
        """A rig's keys mean nothing to another rig; RFC 7396 alone would leave them in."""
        keys = [{"position": [0, -3, 0]}, {"position": [3, 0, 1]}]
        rigs = {
            "orbit": {"kind": "orbit", "turns": 2},
            "still": {"kind": "still", "elevation_deg": 40},
            "path": {"kind": "path", "keys": keys},
            "stops": {"kind": "stops"},
        }
        view = {"position": [0, -3, 0], "look": [0, 0, 0]}
        (shot,) = [shot for shot in new_shots() if shot.source.kind == "model"]
        shot = edited(shot, {"camera": {"views": [view]}})
        kinds = {"orbit": OrbitSpec, "still": StillSpec, "path": PathSpec, "stops": StopsSpec}
        for first, before in rigs.items():
            for second, after in rigs.items():
                with self.subTest(first=first, second=second):
                    changed = edited(edited(shot, {"camera": {"rig": before}}), {"camera": {"rig": after}})
                    self.assertIsInstance(changed.camera.rig, kinds[second])
                    alone = edited(shot, {"camera": {"rig": {"kind": "still"}}})
                    self.assertEqual(changed.camera.rig, edited(alone, {"camera": {"rig": after}}).camera.rig)

    def test_a_dial_named_kind_is_a_dial(self):
        dials = {"kind": 1.0, "other": 2.0}
        shot = read_shot_document(shot_document({"kind": "model", "file": "a.py", "dials": dials}))
        self.assertEqual(edited(shot, {"source": {"dials": {"kind": 3}}}).source.dials, {"kind": 3, "other": 2})

    def test_merge_patch_of_the_standard(self):
        # RFC 7396, appendix A (from memory).
        for target, patch, result in (
            ({"a": "b"}, {"a": "c"}, {"a": "c"}), ({"a": "b"}, {"b": "c"}, {"a": "b", "b": "c"}),
            ({"a": "b"}, {"a": None}, {}), ({"a": "b", "b": "c"}, {"a": None}, {"b": "c"}),
            ({"a": ["b"]}, {"a": "c"}, {"a": "c"}), ({"a": "c"}, {"a": ["b"]}, {"a": ["b"]}),
            ({"a": {"b": "c"}}, {"a": {"b": "d", "c": None}}, {"a": {"b": "d"}}),
            ({"a": [{"b": "c"}]}, {"a": [1]}, {"a": [1]}), (["a", "b"], ["c", "d"], ["c", "d"]),
            ({"a": "b"}, ["c"], ["c"]), ({"a": "foo"}, None, None), ({"e": None}, {"a": 1}, {"e": None, "a": 1}),
            ([1, 2], {"a": "b", "c": None}, {"a": "b"}), ({}, {"a": {"bb": {"ccc": None}}}, {"a": {"bb": {}}}),
        ):  # fmt: skip
            with self.subTest(target=target, patch=patch):
                self.assertEqual(merged(target, patch), result)


class LeanTest(unittest.TestCase):
    def test_a_document_is_saved_lean_and_reads_the_same(self):
        for shot in (*demo_shots(), *new_shots()):
            text = spelled(shot)
            self.assertEqual(read_shot(text), shot)
            self.assertNotIn("soft_deg", json.loads(text).get("light", {}))


if __name__ == "__main__":
    unittest.main()
