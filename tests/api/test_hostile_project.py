"""A project from elsewhere that tries every known way in, opened by every command and every address of the server."""

import os
import unittest
from unittest import mock

from bench.hostile_project import attack

from tests.helpers import scratch
from vexel.workers.bounds.isolation import OFF


class HostileProjectTest(unittest.TestCase):
    def test_nothing_runs_or_leaks_before_it_is_trusted(self):
        # Without the kernel's help, so that each other wall is tried by itself.
        state = {"XDG_STATE_HOME": str(scratch(self)), OFF: "off", "VEXEL_VIEW_SECONDS": "10"}
        with mock.patch.dict(os.environ, state):
            made = attack(scratch(self) / "attack")
        self.assertEqual(made.breaches, [])
        self.assertGreater(made.asked, 400)


if __name__ == "__main__":
    unittest.main()
