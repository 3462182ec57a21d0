// Plays the take as a video. Space stops and goes on, the arrow keys go frame by frame.
(() => {
  const take = JSON.parse(document.getElementById("take").textContent);
  const stage = document.getElementById("stage");
  const video = document.createElement("video");
  Object.assign(video, { src: take.video, loop: take.plays === 0, muted: true, playsInline: true, controls: true });
  video.poster = stage.querySelector("img").src;
  video.setAttribute("aria-label", take.title);
  stage.replaceChildren(video);
  const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  let left = take.plays;
  video.addEventListener("ended", () => {
    left -= 1;
    if (left > 0) void video.play();
  });
  if (!still) video.play().catch(() => undefined);
  stage.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (step) {
      video.pause();
      const frame = Math.floor(video.currentTime * take.rate + 1e-3) + step;
      video.currentTime = (((frame + take.count) % take.count) + 0.5) / take.rate;
    } else if (event.key === " " && event.target === stage) {
      video.paused ? void video.play() : video.pause();
    } else return;
    event.preventDefault();
  });
})();
