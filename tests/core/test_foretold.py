"""What is foretold from a probe: a range that holds where the rest is as probed, and is missed where it is not."""

import itertools
import unittest
from dataclasses import replace

from tests.helpers import shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.document.shot import Shot
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.forecast.foretold import FileProbe, Probe, ProbedFrame, Stretch, foretold
from vexel.core.forecast.kept import foretold_document, foretold_of, probe_document, probe_of
from vexel.core.forecast.left import left_frames
from vexel.core.forecast.probe_frames import first_frames, frame_between, stretches
from vexel.core.lanes.dial import Dial


def plan(frames=100, lanes=(), rig=None):
    document = shot_document({"kind": "model", "file": "a.py"}, frames, lanes=list(lanes))
    document |= {"camera": {"rig": rig}} if rig else {}
    facts = SourceFacts((Dial("size", 1, 0, 9),))
    inputs = PlanInputs("e", SourceIdentity("model", "a.py", "0"), facts, Subject(Sphere((0, 0, 0), 1)))
    return make_plan(Shot.model_validate(document, strict=False), inputs)


def probe(costs, workers=1, **parts):
    return Probe(tuple(ProbedFrame(n, seconds, size) for n, (seconds, size) in costs.items()), workers, **parts)


class ProbeFramesTest(unittest.TestCase):
    def test_first_last_and_where_a_dial_is_highest_or_the_camera_nearest(self):
        up = {"drive": "dial:size", "keys": [[0, 1], [0.3, 8], [1, 2]]}
        first, heaviest, last = first_frames(plan(lanes=[up]))
        self.assertEqual((first, last), (0, 99))
        self.assertAlmostEqual(heaviest, 30, delta=1)
        near = {"kind": "path", "keys": [{"position": [0, -9, 0]}, {"position": [0, -2, 0]}, {"position": [0, -9, 1]}]}
        self.assertAlmostEqual(first_frames(plan(rig=near))[1], 50, delta=12)
        self.assertEqual(first_frames(plan(1)), (0,))

    def test_between_neighbours_that_differ_by_more_than_two_up_to_nine_frames(self):
        self.assertIsNone(frame_between({0: 1.0, 50: 1.9, 99: 1.0}))
        self.assertEqual(frame_between({0: 1.0, 50: 2.1, 99: 2.0}), 25)
        costs = {0: 1.0, 99: 1000.0}
        while (frame := frame_between(costs)) is not None:
            costs[frame] = 1.0 + 10 * frame
        self.assertEqual(len(costs), 9)

    def test_stretches_follow_one_another_and_do_not_overlap(self):
        for count, heaviest, seconds in itertools.product((1, 3, 5, 30, 500), (0, 2, 29), (0.01, 1, 90)):
            heaviest = min(heaviest, count - 1)
            parts = stretches([0, heaviest, count - 1], heaviest, count, seconds, 2)
            frames = [frame for part in parts for frame in part]
            self.assertEqual(len(set(frames)), len(frames))
            self.assertTrue(all(0 <= frame < count for frame in frames))
            self.assertTrue(any(heaviest in part for part in parts))
            self.assertLessEqual(len(frames), 4 if seconds == 90 else max(count // 4, 24))

    def test_frames_that_are_there_or_equal_to_an_earlier_one_are_not_left(self):
        keys = ["a", "b", "c", "d", "a", "b", "e", "x"]
        self.assertEqual(left_frames(keys, 2, {"c", "d", "x"}), [0, 3])
        self.assertEqual(left_frames(keys, 2, set(keys)), [])


class ForetoldTest(unittest.TestCase):
    def within(self, range_, value):
        self.assertTrue(range_.has(value), (range_, value))
        self.assertLessEqual(range_.high, 2 * range_.low)

    def test_costs_that_grow_are_summed_along_the_shot(self):
        costs = {n: (0.1 + 0.01 * n, 1000 + 50 * n) for n in (0, 25, 50, 99)}
        said = foretold(probe(costs, 2, start_seconds=0.2), range(100))
        self.within(said.seconds, sum(0.1 + 0.01 * n for n in range(100)) / 2)
        self.within(said.bytes, sum(1000 + 50 * n for n in range(100)))
        half = foretold(probe(costs, 2), range(50))
        self.within(half.seconds, sum(0.1 + 0.01 * n for n in range(50)) / 2)
        self.assertFalse(half.bytes.has(said.bytes.high), "fewer frames cost less")
        copied = foretold(probe(costs, 2), range(50), written=range(100))
        self.assertEqual((copied.seconds, copied.bytes), (half.seconds, said.bytes))

    def test_another_cost_than_the_probed_one_is_outside(self):
        said = foretold(probe(dict.fromkeys((0, 50, 99), (1.0, 1000))), range(100))
        for factor, inside in ((1, True), (1.1, True), (1.6, False), (0.6, False)):
            self.assertEqual(said.seconds.has(100 * factor), inside, factor)
            self.assertEqual(said.bytes.has(100_000 * factor) and inside, said.bytes.has(100_000 * factor))

    def test_a_source_that_goes_from_frame_to_frame_reaches_its_stretches_first(self):
        # A step takes 0.2 s and a picture 0.1: two workers make 50 frames each, the second one from step 50 on.
        frames = [ProbedFrame(n, 0.3, 10, 1) for n in range(6)] + [ProbedFrame(50, 0.1 + 45 * 0.2, 10, 45)]
        said = foretold(Probe(tuple(frames), 2), range(100), lambda n: n)
        self.within(said.seconds, 99 * 0.2 + 50 * 0.1)
        kept = foretold(Probe(tuple(frames), 2, keeps_states=True), range(100), lambda n: n)
        self.within(kept.seconds, 49 * 0.2 + 50 * 0.1)

    def test_a_film_grows_by_what_follows_the_first_picture_and_by_key_frames(self):
        parts = tuple(
            Stretch(begin, 8, 9000, 9500 + 7 * each, 4, 9500 + 3 * each)
            for begin, each in ((0, 100), (46, 300), (92, 500))
        )
        film = FileProbe(parts, 1000, 1000, 250)
        said = foretold(probe({0: (1, 1)}, files=(film,)), range(1))
        self.within(said.file_bytes, 9000 + 999 * 480 + 3 * 8500)
        both = foretold(probe({0: (1, 1)}, files=(film, film)), range(1))
        self.assertAlmostEqual(both.file_bytes.low, 2 * said.file_bytes.low)
        kept_to = foretold(probe({0: (1, 1)}, files=(replace(film, most_bytes=50_000),)), range(1))
        self.assertEqual(kept_to.file_bytes.high, 50_000)

    def test_short_stretches_are_taken_as_far_as_the_longest_one_settled(self):
        first, last = (Stretch(begin, 4, 9000, 9600, 2, 9200) for begin in (0, 92))
        long = Stretch(40, 32, 9000, 12_200, 16, 10_600)
        film = FileProbe((first, long, last), 1000, 1000, settled=0.5)
        said = foretold(probe({0: (1, 1)}, files=(film,)), range(1))
        self.within(said.file_bytes, 9000 + 999 * 100)
        self.assertFalse(
            foretold(probe({0: (1, 1)}, files=(replace(film, settled=1.0),)), range(1)).file_bytes.has(109_000)
        )

    def test_without_times_there_is_no_range_of_time_and_without_frames_left_none_is_needed(self):
        said = foretold(probe({0: (None, 10), 9: (None, 10)}), range(10))
        self.assertIsNone(said.seconds)
        self.within(said.bytes, 100)
        done = foretold(probe({0: (1.0, 10)}, start_seconds=3.0), [])
        self.assertEqual((done.seconds.high, done.bytes.high, done.left), (0, 0, 0))

    def test_documents_give_back_the_same_and_others_give_nothing(self):
        film = FileProbe((Stretch(0, 8, 10, 20, 4, 15),), 5, 5)
        made = probe({0: (1.0, 10), 4: (None, 10)}, 2, files=(film,), recipe="h264", memory=5)
        self.assertEqual(probe_of(probe_document(made)), made)
        said = foretold(made, range(3))
        self.assertEqual(foretold_of(foretold_document(said)), said)
        self.assertIsNone(probe_of({"frames": "all"}))
        self.assertIsNone(foretold_of(None))


if __name__ == "__main__":
    unittest.main()
