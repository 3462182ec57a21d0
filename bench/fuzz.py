"""Asks a running server thousands of made-up things, and tells every answer that must not be.

    python -m bench.fuzz [CALLS]

Prints how many calls were made, and each kind of wrong answer once with a call that brings it.
"""

import http.client
import json
import os
import re
import shutil
import sys
import tempfile
import time
from pathlib import Path

from hypothesis import HealthCheck, Phase, given, seed, settings
from tests.api.fuzzing import Call, calls
from tests.helpers import Server, demo_home

CALLS = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
SHOTS = [
    "mooring-buoy",
    "shell-growth",
    "tide-week",
    "gauge",
    "basin-flight",
    "survey",
    "quay",
    "lighthouse",
    "ripples",
]
SECONDS = 60
"""An answer that takes longer is told as one that hangs."""


def _capture(server: Server) -> None:
    """Three small runs with their files, to be asked about."""
    small = {"clock": {"frames": 6, "seconds": None}, "picture": {"width": 96, "height": 64}}
    for shot in SHOTS[:3]:
        server.ask(f"/api/shots/{shot}", {"patch": small, "what": "small"}, "PATCH")
        _, run = server.ask(f"/api/shots/{shot}/runs", {"to_file": True})
        server.wait_for_run(run["id"], lambda r: [o["state"] for o in r["outputs"]] == ["done"])


def main() -> None:
    """Make the calls and print what was found."""
    os.environ |= {"VEXEL_VIEW_SECONDS": "2", "VEXEL_FRAME_SECONDS": "20", "VEXEL_MEMORY_MB": "1500"}
    wrong: dict[str, str] = {}
    made = {"calls": 0}
    statuses: dict[int, int] = {}
    with tempfile.TemporaryDirectory(prefix="vexel-fuzz-") as place:
        home = Path(place) / "home"
        shutil.copytree(demo_home(), home)
        server = Server(None, home, python=sys.executable)
        host = server.base.removeprefix("http://")
        _capture(server)
        (cookie,) = server.cookies
        own = {"Cookie": f"{cookie.name}={cookie.value}", "Origin": server.base}

        def ask(call: Call) -> tuple[int, bytes]:
            connection = http.client.HTTPConnection(host, timeout=SECONDS)
            try:
                connection.request(call.method, call.path, call.body or None, own | call.headers)
                answer = connection.getresponse()
                return answer.status, answer.read()
            finally:
                connection.close()

        @seed(20_261_126)
        @settings(
            max_examples=CALLS, deadline=None, database=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )  # fmt: skip
        @given(call=calls(SHOTS, [1, 2, 3], ("delete /api/runs/{run_id}",)))
        def each(call: Call) -> None:
            made["calls"] += 1
            begun = time.monotonic()
            try:
                status, told = ask(call)
                statuses[status] = statuses.get(status, 0) + 1
                found = call.wrong(status, told)
            except (OSError, http.client.HTTPException) as error:
                status, told = 0, b""
                found = f"no answer after {time.monotonic() - begun:.0f} s: {error!r}"
            if call.method == "DELETE" and status == 200 and b'"removed":"' in told:
                # Else there would soon be no shot to ask about.
                server.ask(f"/api/removed/{json.loads(told)['removed']}/restore", {})
            if found:
                kind = re.sub(r"\d+|'[^']*'", "_", f"{call.method} {call.path.split('?')[0][:40]} {found[:160]}")
                if kind not in wrong:
                    print(f"WRONG {call.method} {call.path[:300]} {call.body[:500]!r}\n   {found}\n", flush=True)
                wrong.setdefault(kind, found)
            if made["calls"] % 500 == 0:
                print(f"{made['calls']:,} calls, {len(wrong)} kinds of wrong answer", flush=True)

        begun = time.monotonic()
        each()
        seconds = time.monotonic() - begun
        alive = server.ask("/api/shots")[0]
        server.end()
    told = ", ".join(f"{count:,} × {status}" for status, count in sorted(statuses.items()))
    print(f"{made['calls']:,} calls in {seconds:.0f} s: {told}")
    print(f"{len(wrong)} kinds of wrong answer; afterwards the shot list gives {alive}")
    sys.exit(1 if wrong or alive != 200 else 0)


if __name__ == "__main__":
    main()
