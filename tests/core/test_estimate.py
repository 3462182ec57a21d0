"""Whether the disk has room for a capture: a finding whose fixes make the frames smaller."""

import unittest

from tests.helpers import shot_document
from vexel.core.document.shot import Shot, edited
from vexel.core.forecast.estimate import room_findings

GB = 10**9


class RoomTest(unittest.TestCase):
    def shot(self, **picture):
        document = shot_document({"kind": "object", "file": "a.obj"}, picture=picture)
        return Shot.model_validate(document, strict=False)

    def test_what_fits_is_no_finding_and_what_stays_free_does_not_count(self):
        shot = self.shot(width=1920, height=1080)
        self.assertEqual([*room_findings(shot, 3 * GB, 4 * GB, GB)], [])
        (found,) = room_findings(shot, 3 * GB + 1, 4 * GB, GB)
        self.assertEqual(found.name, "disk-too-small")
        self.assertIn("need about 3 GB, and 3 GB of the disk can be used", found.what)
        self.assertIn("while less than 1 GB are free", found.cost)
        (found,) = room_findings(shot, GB, GB // 2, 0)
        self.assertNotIn("pauses", found.cost)
        (found,) = room_findings(shot, 1, 0, GB)
        self.assertIn("0 bytes of the disk can be used", found.what)

    def test_each_fix_makes_smaller_frames(self):
        for kind, fewer in (("exr", "png16"), ("png16", "png"), ("png", None)):
            shot = self.shot(width=1919, height=31, format=kind)
            (found,) = room_findings(shot, GB, 0, 0)
            changed = [edited(shot, fix.patch).picture for fix in found.fixes]
            self.assertEqual([one.format for one in changed if one.format != kind], [fewer] if fewer else [])
            self.assertTrue(all(one.width * one.height < 1919 * 31 for one in changed if one.format == kind))
        (found,) = room_findings(self.shot(width=20, height=20), GB, 0, 0, 3 * GB, "vexel capture x --to FOLDER")
        told = [(one.label, one.patch, one.place, one.command) for one in found.fixes]
        self.assertEqual(told, [("Remove 3 GB that nothing uses", {}, "storage", ""),
                                ("Capture to another folder", {}, "", "vexel capture x --to FOLDER")])  # fmt: skip
        self.assertEqual([len(one.fixes) for one in room_findings(self.shot(width=20, height=20), GB, 0, 0)], [0])


if __name__ == "__main__":
    unittest.main()
