"""(b) Viewfinder round trip, from asking to a decoded picture in the browser, while the camera is dragged."""

import sys
from pathlib import Path

import numpy as np

from common import folder, object_shot, tell

sys.path.insert(0, str(Path(__file__).parents[1]))
from tests.helpers import Server
from tests.screens.base import CHROMIUM, FLAGS

STYLES = {
    "shaded": {},
    **{
        style: {"picture": {"passes": [style]}}
        for style in ("edges", "wire", "hidden-line", "clay", "depth", "normal", "matte")
    },
    "shaded, shadow on a ground": {"picture": {"ground": True}, "light": {"shadow": 1, "stands": "world"}},
}
"""Every style but occlusion, which is looked for all round in every picture."""

LOOP = """async ([id, times, more]) => {
  const took = [];
  for (let n = 0; n < times; n += 1) {
    const patch = { ...more, camera: { rig: { start_deg: n * 1.7 } } };
    const begun = performance.now();
    const answer = await fetch(`/api/shots/${id}/view`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ frame: 0, quick: true, width: 960, height: 540, patch }),
    });
    (await createImageBitmap(await answer.blob())).close();
    took.push(performance.now() - begun);
  }
  return took;
}"""


def main() -> None:
    """Drag through 120 views and print the 95th percentile."""
    from playwright.sync_api import sync_playwright

    with folder() as place, sync_playwright() as playwright:
        (place / "home/shots").mkdir(parents=True)
        object_shot(place / "home/shots", 48)
        server = Server(None, place / "home", python=sys.executable)
        try:
            browser = playwright.chromium.launch_persistent_context(
                str(place / "profile"), executable_path=CHROMIUM, args=FLAGS
            )
            (cookie,) = server.cookies
            browser.add_cookies([{"name": cookie.name, "value": cookie.value, "url": server.base}])
            page = browser.new_page()
            page.goto(server.base + "/api/shots")
            for style, more in STYLES.items():
                page.evaluate(LOOP, ["ball", 5, more])
                middle, late = np.percentile(page.evaluate(LOOP, ["ball", 120 if not more else 60, more]), [50, 95])
                figure = f"median {middle:.0f} ms, 95th percentile {late:.0f} ms"
                what = f"viewfinder, 179,000 triangles, 960×540, in the browser, {style}"
                tell(what, figure, "120 ms", late <= 120)
            browser.close()
        finally:
            server.end()


if __name__ == "__main__":
    main()
