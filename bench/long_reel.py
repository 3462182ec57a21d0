"""An edit of one of 5,000 items of a reel, and its undo: time and bytes, against the first answer that holds all."""

import json
import time
from typing import Any

from PIL import Image

from bench.common import few, folder, tell
from bench.lists import HOST, PORT
from vexel.store.consent import Consent
from vexel.store.project import Project
from vexel.web.app import create_app
from vexel.web.guard import Guard
from vexel.web.services import Services

ITEMS = few(200, 5000)
EDITS = few(3, 20)
BUDGET_SECONDS, BUDGET_BYTES = 0.5, 1_000_000
OWN = HOST | {"Origin": f"http://127.0.0.1:{PORT}"}


def main() -> None:
    """Edit items here and there, take each back, and print the middle."""
    with folder() as place:
        home = place / "home"
        (home / "reels/files").mkdir(parents=True)
        for n in range(4):
            Image.new("RGB", (64, 36), (60 * n,) * 3).save(home / f"reels/files/w{n}.png")
        items = [{"kind": "stills", "file": f"files/w{n % 4}.png", "frames": 3 + n % 3} for n in range(ITEMS)]
        (home / "reels/long.json").write_text(json.dumps({"title": "Long", "items": items}))
        services, guard = Services(Project(home), 1, Consent(home, trusted=True)), Guard("secret", PORT)
        client = create_app(services, guard).test_client()
        client.set_cookie(guard.cookie, "secret", domain="127.0.0.1")
        try:
            first = client.get("/api/reels/long", headers=HOST)
            assert len(first.json["items"]) == ITEMS  # type: ignore[index]
            now: dict[str, Any] = first.json  # type: ignore[assignment]
            seconds, sizes = [], []
            for edit in range(EDITS):
                at = edit * ITEMS // EDITS
                body = {"patch": {"items": {"change": {str(at): {"frames": 9}}}}, "what": "x"}
                for method, address, content in (("patch", "", body), ("post", "/undo", {})):
                    query = f"?revision={now['revision']}&since={now['state']}"
                    begun = time.perf_counter()
                    answer = client.open(f"/api/reels/long{address}{query}", method=method, json=content, headers=OWN)
                    seconds.append(time.perf_counter() - begun)
                    sizes.append(len(answer.data))
                    now = answer.json  # type: ignore[assignment]
                    frames = 9 if method == "patch" else items[at]["frames"]
                    (item,) = now["document"]["items"]
                    assert (item["frames"], now["head"], now["tail"]) == (frames, at, ITEMS - at - 1), now["head"]
        finally:
            services.close()
    middle, most = sorted(seconds)[len(seconds) // 2], max(sizes)
    figure = f"{middle:.2f} s, at most {most / 1000:,.0f} kB, {len(first.data) / most:.0f} times less than all of it"
    budget = f"{BUDGET_SECONDS} s, {BUDGET_BYTES // 1000:,} kB"
    tell(f"edit of one of {ITEMS} items", figure, budget, middle <= BUDGET_SECONDS and most <= BUDGET_BYTES)


if __name__ == "__main__":
    main()
