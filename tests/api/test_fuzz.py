"""Whatever is asked of the server is answered with a documented status, and refusals with a sentence."""

import shutil
import unittest
from unittest import mock

from hypothesis import HealthCheck, given, settings

from tests import LONG
from tests.api.fuzzing import calls
from tests.helpers import demo_home, scratch
from vexel.store.consent import Consent
from vexel.store.project import Project
from vexel.web.app import create_app
from vexel.web.guard import Guard
from vexel.web.services import Services

PORT = 8137
OWN = {"Host": f"127.0.0.1:{PORT}", "Origin": f"http://127.0.0.1:{PORT}"}
SHOTS = ["mooring-buoy", "shell-growth", "tide-week", "gauge", "basin-flight"]
SKIPPED = (
    # They take long for what they show here; bench/fuzz.py asks them too.
    "post /api/shots/{shot_id}/runs", "post /api/shots/{shot_id}/proof", "get /api/shots/{shot_id}/cost",
    "get /api/shots/{shot_id}/left", "get /api/shots/{shot_id}/source", "get /api/shots/{shot_id}/view",
    "post /api/shots/{shot_id}/view",
)  # fmt: skip


class FuzzTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        case = unittest.TestCase()
        cls.addClassCleanup(case.doCleanups)
        home = scratch(case) / "home"
        shutil.copytree(demo_home(), home)
        limits = mock.patch.dict("os.environ", {"VEXEL_VIEW_SECONDS": "5"})
        limits.start()
        case.addCleanup(limits.stop)
        services = Services(Project(home), 1, Consent(home, trusted=True))
        case.addCleanup(services.close)
        guard = Guard("secret", PORT)
        cls.client = create_app(services, guard).test_client()
        cls.client.set_cookie(guard.cookie, "secret", domain="127.0.0.1")

    @settings(
        max_examples=300 if LONG else 120, deadline=None, derandomize=True, database=None,
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(call=calls(SHOTS, [1, 2], SKIPPED))
    def test_every_call_is_answered(self, call):
        answer = self.client.open(call.path, method=call.method, data=call.body, headers=OWN | call.headers)
        wrong = call.wrong(answer.status_code, answer.data)
        answer.close()
        self.assertFalse(wrong, f"{call.method} {call.path} {call.body[:400]!r}\n{wrong}")


if __name__ == "__main__":
    unittest.main()
