"""How long the server takes to answer while workers keep both cores busy: workers that give way, against equal ones."""

import time

from tests.helpers import Server

from bench.common import few, folder, ratio_of, tell
from vexel.demo import lay_out

CALLS = few(6, 150)
ROUNDS = few(1, 3)
SIZE = {"width": few(96, 1920), "height": few(54, 1080), "samples": 4}
BUDGET_MS = 1000
ADDRESSES = ("/api/runs", "/api/shots", "/api/shots/mooring-buoy", "/api/outputs")


def slowest_usual(niceness: int) -> float:
    """The 95th percentile of the answers' milliseconds while a capture runs."""
    with folder() as place:
        lay_out(place / "home")
        server = Server(None, place / "home", "serve --trust", VEXEL_NICE=str(niceness))
        try:
            server.ask("/api/shots/mooring-buoy", {"patch": {"picture": SIZE}, "what": "the size"}, "PATCH")
            _, run = server.ask("/api/shots/mooring-buoy/runs", {})
            server.wait_for_run(run["id"], lambda told: told["made"] > 0 or told["state"] == "done")
            took = []
            for n in range(CALLS):
                begun = time.perf_counter()
                status, _ = server.ask(ADDRESSES[n % len(ADDRESSES)])
                took.append(1000 * (time.perf_counter() - begun))
                assert status == 200, status
                time.sleep(0.02)
            _, now = server.ask(f"/api/runs/{run['id']}")
            assert now["state"] in ("running", "done"), now["state"]
            assert not now["failed"], now
            server.ask(f"/api/runs/{run['id']}/stop", {})
        finally:
            server.end()
    return sorted(took)[int(CALLS * 0.95)]


def main() -> None:
    """Both, in turns."""
    ours, plain, ratio = ratio_of([(slowest_usual(10), slowest_usual(0)) for _ in range(ROUNDS)])
    figure = f"95th percentile {ours:.0f} ms / {plain:.0f} ms = {ratio:.2f} times"
    tell("answers of the server with both cores busy", figure, f"{BUDGET_MS} ms", ours <= BUDGET_MS)


if __name__ == "__main__":
    main()
