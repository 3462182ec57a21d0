// Virtual time for a page, run before any of its own scripts.
//
// Whatever tells the time or waits for it stands still between frames: Date,
// performance.now, timers, animation frames, CSS animations and transitions,
// Web Animations, SVG's own animation, audio and video. `__vexel.go` moves all
// of them by exact steps.
(() => {
  if (window.__vexel) return;
  const EPOCH = Date.UTC(2026, 0, 1);
  const MAX_TASKS = 20000;
  const real = {
    Date: window.Date,
    setTimeout: window.setTimeout.bind(window),
    MessageChannel: window.MessageChannel,
    now: performance.now.bind(performance),
    fetch: window.fetch,
  };
  let now = 0;
  let turn = 0;
  let pending = 0;
  const errors = [];
  const tell = (sentence) => errors.length < 20 && !errors.includes(sentence) && errors.push(sentence);

  // --- dates and clocks
  class VirtualDate extends real.Date {
    constructor(...given) {
      if (given.length === 0) super(EPOCH + now);
      else super(...given);
    }
    static now() {
      return EPOCH + now;
    }
  }
  window.Date = new Proxy(VirtualDate, { apply: () => new VirtualDate().toString() });
  VirtualDate.prototype.constructor = window.Date;
  const replace = (object, name, value) =>
    Object.defineProperty(object, name, { value, configurable: true, writable: true });
  replace(Performance.prototype, "now", () => now);
  Object.defineProperty(Performance.prototype, "timeOrigin", { get: () => EPOCH, configurable: true });

  // --- timers and animation frames, in the order in which they are due
  let tasks = [];
  let frames = new Map();
  let handles = 1;
  const call = (work, given) => {
    try {
      if (typeof work === "function") work(...given);
      else (0, eval)(String(work));
    } catch (error) {
      report(error);
    }
  };
  const later = (work, delay, given, every) => {
    const wait = Math.max(Number(delay) || 0, every === null ? 0 : 1);
    const task = { handle: handles++, due: now + wait, turn: turn++, work, given, every: every === null ? null : wait };
    tasks.push(task);
    return task.handle;
  };
  const drop = (handle) => {
    tasks = tasks.filter((task) => task.handle !== handle);
  };
  replace(window, "setTimeout", (work, delay, ...given) => later(work, delay, given, null));
  replace(window, "setInterval", (work, delay, ...given) => later(work, delay, given, true));
  replace(window, "clearTimeout", drop);
  replace(window, "clearInterval", drop);
  replace(window, "requestIdleCallback", (work) =>
    later(() => work({ didTimeout: false, timeRemaining: () => 10 }), 0, [], null),
  );
  replace(window, "cancelIdleCallback", drop);
  replace(window, "requestAnimationFrame", (work) => {
    frames.set(handles, work);
    return handles++;
  });
  replace(window, "cancelAnimationFrame", (handle) => frames.delete(handle));

  const runTimers = async (until) => {
    for (let count = 0; ; count++) {
      let next = null;
      for (const task of tasks) {
        if (task.due <= until && (!next || task.due < next.due || (task.due === next.due && task.turn < next.turn)))
          next = task;
      }
      if (!next) return;
      if (count >= MAX_TASKS) {
        tell(`its timers never settle: more than ${MAX_TASKS} of them ran within one frame`);
        return;
      }
      now = Math.max(now, next.due);
      if (next.every === null) drop(next.handle);
      else Object.assign(next, { due: next.due + next.every, turn: turn++ });
      call(next.work, next.given);
      await null;
      adopt(document);
    }
  };

  // --- random numbers (mulberry32, public domain)
  let state = 0;
  const random = () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  Math.random = random;
  replace(Crypto.prototype, "getRandomValues", (array) => {
    const bytes = new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
    for (let k = 0; k < bytes.length; k++) bytes[k] = random() * 256;
    return array;
  });
  replace(Crypto.prototype, "randomUUID", () => {
    const hex = (count) => Array.from({ length: count }, () => Math.floor(random() * 16).toString(16)).join("");
    return `${hex(8)}-${hex(4)}-4${hex(3)}-8${hex(3)}-${hex(12)}`;
  });

  // --- CSS animations, transitions and Web Animations
  const proto = Animation.prototype;
  const own = { play: proto.play, pause: proto.pause, finish: proto.finish, reverse: proto.reverse };
  const ownTime = Object.getOwnPropertyDescriptor(proto, "currentTime");
  const adopted = new Map();
  replace(proto, "pause", function () {
    adopted.delete(this);
    this.__held = true;
    return own.pause.call(this);
  });
  replace(proto, "play", function () {
    this.__held = false;
    adopted.delete(this);
    return own.play.call(this);
  });
  Object.defineProperty(proto, "currentTime", {
    configurable: true,
    get() {
      return ownTime.get.call(this);
    },
    set(value) {
      const held = adopted.get(this);
      if (held) held.base = now - value / (this.playbackRate || 1);
      ownTime.set.call(this, value);
    },
  });
  // An animation begins at the virtual time at which it is first seen; what the wall clock has added is taken back.
  const adopt = (root) => {
    for (const animation of root.getAnimations()) {
      if (adopted.has(animation) || animation.__held || animation.playState !== "running") continue;
      own.pause.call(animation);
      adopted.set(animation, { base: now });
    }
  };
  const moveAnimations = (root) => {
    adopt(root);
    for (const animation of root.getAnimations()) {
      if (!adopted.has(animation)) continue;
      const rate = animation.playbackRate;
      const end = animation.effect ? animation.effect.getComputedTiming().endTime : 0;
      const passed = (now - adopted.get(animation).base) * rate;
      const time = rate >= 0 ? passed : end + passed;
      if (Number.isFinite(end) && ((rate > 0 && time >= end) || (rate < 0 && time <= 0))) {
        own.finish.call(animation);
        adopted.delete(animation);
        animation.__held = true;
      } else {
        ownTime.set.call(animation, time);
      }
    }
    for (const element of root.querySelectorAll("*")) if (element.shadowRoot) moveAnimations(element.shadowRoot);
  };

  // --- SVG's own animation
  const drawings = new Map();
  const moveDrawings = () => {
    const all = [...document.querySelectorAll("svg")];
    if (document.documentElement instanceof SVGSVGElement) all.unshift(document.documentElement);
    for (const svg of all) {
      if (svg.ownerSVGElement) continue;
      if (!drawings.has(svg)) drawings.set(svg, now);
      svg.pauseAnimations();
      svg.setCurrentTime((now - drawings.get(svg)) / 1000);
    }
  };

  // --- audio and video
  const media = new Map();
  const mediaProto = HTMLMediaElement.prototype;
  const ownPause = mediaProto.pause;
  const playing = (element) => {
    if (!media.has(element)) media.set(element, { base: now - element.currentTime * 1000 });
  };
  replace(mediaProto, "play", function () {
    playing(this);
    return Promise.resolve();
  });
  replace(mediaProto, "pause", function () {
    media.delete(this);
    ownPause.call(this);
  });
  const moveMedia = async () => {
    for (const element of document.querySelectorAll("audio, video")) {
      // What it has played by itself until it was first looked at does not count.
      if (element.autoplay && !media.has(element)) media.set(element, { base: now });
      ownPause.call(element);
      const held = media.get(element);
      if (!held) continue;
      if (element.readyState < 2) {
        element.preload = "auto";
        await happens(element, ["loadeddata", "error"], 5000);
      }
      if (!(element.duration > 0)) continue;
      let time = ((now - held.base) / 1000) * element.playbackRate;
      time = element.loop ? time % element.duration : Math.min(time, element.duration);
      time += ROUNDED_S;
      if (Math.abs(element.currentTime - time) > 1e-4) {
        element.currentTime = time;
        await happens(element, ["seeked", "error"], 5000);
        if (element.videoWidth && element.readyState >= 2) await arrive(element, time);
      }
    }
  };
  // Containers keep times to the millisecond: a picture that is due now may be noted as half of one later.
  const ROUNDED_S = 0.001;
  const LATEST_MS = 250;
  const pictures = new Map();
  // "seeked" may come before the picture is there to be painted: on a busy machine it is several pictures late. Every
  // picture tells its time, and it is the one that is due unless the next could be, by the shortest gap seen so far.
  const arrive = async (video, time) => {
    if (!pictures.has(video)) pictures.set(video, { at: null, gap: 0 });
    const known = pictures.get(video);
    for (const until = real.now() + LATEST_MS; ; await breathe()) {
      const picture = new VideoFrame(video);
      const at = picture.timestamp / 1e6;
      picture.close();
      const due = at <= time && time - at < 0.9 * known.gap;
      if (!due && real.now() < until) continue;
      if (known.at !== null && at > known.at) known.gap = Math.min(known.gap || Infinity, at - known.at);
      known.at = at;
      return;
    }
  };
  // A player hands its pictures to the painter by a clock of its own, some frames late. So its picture, which is
  // right as soon as it has been sent there, is painted as the element's background instead.
  const FITS = { fill: "100% 100%", contain: "contain", cover: "cover", none: "auto", "scale-down": "contain" };
  const present = async () => {
    for (const element of document.querySelectorAll("video")) {
      if (element.readyState < 2 || !element.videoWidth) continue;
      const canvas = document.createElement("canvas");
      canvas.width = element.videoWidth;
      canvas.height = element.videoHeight;
      canvas.getContext("2d").drawImage(element, 0, 0);
      const address = canvas.toDataURL();
      const image = new Image();
      image.src = address;
      await image.decode();
      const look = {
        "background-image": `url(${address})`,
        "background-size": FITS[getComputedStyle(element).objectFit],
        "background-repeat": "no-repeat",
        "background-position": "center",
        "object-position": "-100000px 0",
      };
      for (const [name, value] of Object.entries(look)) element.style.setProperty(name, value, "important");
    }
  };
  const happens = (target, names, most) =>
    new Promise((resolve) => {
      for (const name of names) target.addEventListener(name, resolve, { once: true });
      real.setTimeout(resolve, most);
    });

  // --- what is still being fetched
  replace(window, "fetch", (...given) => {
    pending++;
    return real.fetch.apply(window, given).finally(() => pending--);
  });
  const ownSend = XMLHttpRequest.prototype.send;
  replace(XMLHttpRequest.prototype, "send", function (...given) {
    pending++;
    this.addEventListener("loadend", () => pending--);
    return ownSend.apply(this, given);
  });
  const breathe = () =>
    new Promise((resolve) => {
      const channel = new real.MessageChannel();
      channel.port1.onmessage = resolve;
      channel.port2.postMessage(0);
    });
  const settle = async () => {
    const busy = () =>
      pending > 0 || document.fonts.status !== "loaded" || [...document.images].some((image) => !image.complete);
    await breathe();
    for (let waited = 0; busy(); waited++) {
      if (waited > 1000) {
        tell("it never settles: something is still being fetched after 10 s");
        return;
      }
      await new Promise((resolve) => real.setTimeout(resolve, 10));
    }
    await breathe();
  };

  // --- errors, dialogs, ways out
  const report = (error) => {
    const stack = error && error.stack ? String(error.stack) : "";
    const place = stack.match(/https?:\/\/[^/\s]+\/([^\s):]+):(\d+)/);
    tell(`${place ? `${place[1]}, line ${place[2]}: ` : ""}${error && error.name ? `${error.name}: ${error.message}` : error}`);
  };
  addEventListener("error", (event) => {
    if (event.error) report(event.error);
    else if (event.message) tell(event.message);
  }, true);
  addEventListener("unhandledrejection", (event) => report(event.reason));
  for (const name of ["alert", "confirm", "prompt", "print"]) {
    replace(window, name, (words = "") => {
      tell(`it opens a dialog: ${name}(${JSON.stringify(String(words)).slice(0, 80)}); a page that is captured cannot ask`);
      return name === "confirm" ? false : null;
    });
  }
  replace(window, "open", (address = "") => {
    tell(`it opens another window: ${String(address).slice(0, 120)}`);
    return null;
  });

  // --- moving on
  const tick = async (to) => {
    await runTimers(to);
    now = to;
    const due = frames;
    frames = new Map();
    for (const work of due.values()) call(work, [now]);
    await null;
    moveAnimations(document);
    moveDrawings();
    await moveMedia();
    for (let k = 0; k < window.frames.length; k++) {
      try {
        await window.frames[k].__vexel?.tick(to);
      } catch {
        // A frame from elsewhere has no clock of ours, and no network either.
      }
    }
  };
  // What runs by itself: seconds of one time, how often (null: without end), seconds before it begins.
  const courses = () => {
    const told = [];
    for (const animation of document.getAnimations()) {
      if (!animation.effect || animation.__ended) continue;
      const { duration, iterations, delay, direction } = animation.effect.getComputedTiming();
      if (!(duration > 0) || animation instanceof CSSTransition) continue;
      const rate = Math.abs(animation.playbackRate) || 1;
      const both = direction.startsWith("alternate") && iterations > 1;
      const times = Number.isFinite(iterations) ? iterations / (both ? 2 : 1) : null;
      const name = animation.animationName || animation.id || "";
      told.push([name, ((both ? 2 : 1) * duration) / 1000 / rate, times, delay / 1000 / rate]);
    }
    for (const element of document.querySelectorAll("animate, animateTransform, animateMotion, set")) {
      let seconds = 0;
      try {
        seconds = element.getSimpleDuration();
      } catch {
        continue;
      }
      const count = element.getAttribute("repeatCount");
      const endless = count === "indefinite" || element.getAttribute("repeatDur") === "indefinite";
      let begin = 0;
      try {
        begin = element.getStartTime();
      } catch {
        // It waits for something that may never happen.
      }
      told.push([element.getAttribute("attributeName") || "", seconds, endless ? null : Number(count) || 1, begin]);
    }
    return told;
  };
  window.__vexel = {
    tick,
    courses,
    seed: (value, dials) => {
      state = value | 0;
      window.vexelDials = Object.freeze(dials);
    },
    errors: () => errors,
    seeks: () => typeof window.vexelSeek === "function",
    settle,
    // From frame to frame by exact steps of the rate, numerator / denominator frames a second.
    go: async (from, to, numerator, denominator) => {
      for (let frame = from; frame <= to; frame++) {
        await tick((frame * 1000 * denominator) / numerator);
        await settle();
        if (errors.length) break;
      }
      await present();
      return errors;
    },
    seek: async (frame, numerator, denominator) => {
      const seconds = (frame * denominator) / numerator;
      try {
        await window.vexelSeek(seconds, frame);
      } catch (error) {
        report(error);
      }
      await tick(seconds * 1000);
      await settle();
      await present();
      return errors;
    },
  };
})();
