// The subject turns under the finger: dragging goes through the frames, and on a little when let go.
(() => {
  const take = JSON.parse(document.getElementById("take").textContent);
  const stage = document.getElementById("stage");
  const canvas = document.createElement("canvas");
  const paint = canvas.getContext("2d");
  canvas.width = take.width;
  canvas.height = take.height;
  const frames = take.frames.map(() => null);
  let place = take.start;
  let shown = -1;
  let speed = 0;
  let dragged = null;

  const wrapped = (at) => (take.closes ? ((at % take.count) + take.count) % take.count : Math.min(Math.max(at, 0), take.count - 1));
  const load = (n) => {
    if (frames[n]) return frames[n];
    const image = new Image();
    frames[n] = image;
    image.src = take.frames[n];
    image.decode().then(() => { image.ready = true; if (Math.round(wrapped(place)) % take.count === n) draw(); }, () => undefined);
    return image;
  };
  const draw = () => {
    const n = Math.round(wrapped(place)) % take.count;
    const image = load(n);
    for (const next of [n + 1, n - 1, n + 2, n - 2]) load(((next % take.count) + take.count) % take.count);
    if (!image.ready || n === shown) return;
    paint.clearRect(0, 0, canvas.width, canvas.height);
    paint.drawImage(image, 0, 0);
    if (shown < 0) stage.replaceChildren(canvas);
    shown = n;
    stage.setAttribute("aria-valuenow", String(n));
    stage.setAttribute("aria-valuetext", "frame " + n + " of " + take.count);
    stage.dataset.frame = String(n);
  };
  const turn = (by) => { place = wrapped(place + by); draw(); };
  // A whole turn takes about the width of what is seen.
  const perPixel = () => take.count / Math.max(stage.clientWidth, 1);

  let going = 0;
  const coast = (before) => {
    cancelAnimationFrame(going);
    going = requestAnimationFrame((now) => {
      const seconds = Math.min((now - before) / 1000, 0.1);
      turn(speed * seconds);
      speed *= Math.exp(-3.5 * seconds);
      if (Math.abs(speed) > 0.5 && !dragged) coast(now);
    });
  };
  stage.addEventListener("pointerdown", (event) => {
    stage.setPointerCapture(event.pointerId);
    cancelAnimationFrame(going);
    dragged = { x: event.clientX, at: event.timeStamp };
    speed = 0;
    document.getElementById("hint").hidden = true;
  });
  stage.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    const by = -(event.clientX - dragged.x) * perPixel() * take.sense;
    const seconds = Math.max((event.timeStamp - dragged.at) / 1000, 1e-3);
    speed = 0.7 * (by / seconds) + 0.3 * speed;
    dragged = { x: event.clientX, at: event.timeStamp };
    turn(by);
  });
  const release = (event) => {
    if (!dragged) return;
    const rested = event.timeStamp - dragged.at > 100;
    dragged = null;
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    if (!rested && !still) coast(performance.now());
  };
  stage.addEventListener("pointerup", release);
  stage.addEventListener("pointercancel", release);
  stage.addEventListener("keydown", (event) => {
    const steps = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageUp: take.count / 8, PageDown: -take.count / 8 };
    if (event.key in steps) turn(steps[event.key]);
    else if (event.key === "Home") { place = 0; draw(); }
    else if (event.key === "End") { place = take.count - 1; draw(); }
    else return;
    speed = 0;
    event.preventDefault();
  });
  draw();
})();
