// What a captured page gets before any of its own scripts.
//
// Its clocks are the browser's own, whose time stands still between frames (see
// page_clock.py): timers, dates, animations and workers need nothing here. What
// is left: animation frames come when a frame is made and at no other time,
// numbers drawn by lot are seeded, pictures of videos wait to be decoded, and
// what a captured page may not do is noted.
(() => {
  if (window.__vexel) return;
  const real = {
    now: performance.now.bind(performance),
    frame: window.requestAnimationFrame.bind(window),
    fetch: window.fetch,
    image: window.createImageBitmap,
  };
  let until = 0;
  let exact = null;
  let pending = 0;
  const errors = [];
  const untamed = new Set();
  const tell = (sentence) => errors.length < 20 && !errors.includes(sentence) && errors.push(sentence);
  const replace = (object, name, value) =>
    Object.defineProperty(object, name, { value, configurable: true, writable: true });

  // --- the page's own clock: exact in a frame, else to a tenth of a millisecond, and never past the frame
  const now = () => exact ?? Math.min(Math.round(real.now() * 10) / 10, until);
  replace(Performance.prototype, "now", now);

  // --- animation frames: once in each step, with its exact time
  let waiting = new Map();
  let handles = 1;
  let open = false;
  let asked = false;
  const call = (work, given) => {
    try {
      work(...given);
    } catch (error) {
      report(error);
    }
  };
  const flush = () => {
    asked = false;
    if (!open) {
      if (waiting.size) ask();
      return;
    }
    open = false;
    const due = waiting;
    waiting = new Map();
    exact = until;
    for (const [handle, work] of due) if (due.has(handle)) call(work, [exact]);
    tellPictures();
    exact = null;
  };
  const ask = () => {
    if (asked) return;
    asked = true;
    real.frame(flush);
  };
  replace(window, "requestAnimationFrame", (work) => {
    if (typeof work !== "function") throw new TypeError("requestAnimationFrame needs a function");
    waiting.set(handles, work);
    ask();
    return handles++;
  });
  replace(window, "cancelAnimationFrame", (handle) => waiting.delete(handle));

  // --- timers are the browser's own; that there are some is noted
  const timers = new Set();
  const own = { setTimeout: window.setTimeout, clearTimeout: window.clearTimeout, setInterval: window.setInterval };
  replace(window, "setTimeout", (work, delay, ...given) => {
    const handle = own.setTimeout.call(window, (...late) => {
      timers.delete(handle);
      return typeof work === "function" ? work.apply(window, late) : (0, eval)(String(work));
    }, delay, ...given);
    timers.add(handle);
    return handle;
  });
  replace(window, "setInterval", (...given) => {
    const handle = own.setInterval.apply(window, given);
    timers.add(handle);
    return handle;
  });
  for (const name of ["clearTimeout", "clearInterval"])
    replace(window, name, (handle) => {
      timers.delete(handle);
      own.clearTimeout.call(window, handle);
    });

  // --- whether anybody hears of the end of an animation, which then has to come in time
  let hears = false;
  const ENDS = /^(animation|transition)(start|end|iteration|cancel|run)$|^(finish|cancel|remove)$/;
  const ownAdd = EventTarget.prototype.addEventListener;
  replace(EventTarget.prototype, "addEventListener", function (type, ...rest) {
    if (ENDS.test(type)) hears = true;
    return ownAdd.call(this, type, ...rest);
  });
  const listens = (proto, name) => {
    const own = Object.getOwnPropertyDescriptor(proto, name);
    if (!own) return;
    const noted = (work) => work && function (...given) {
      hears = true;
      return work.apply(this, given);
    };
    // To be told once is asked for by reading a promise, or by setting a handler.
    Object.defineProperty(proto, name, name === "finished" ? { ...own, get: noted(own.get) } : { ...own, set: noted(own.set) });
  };
  for (const name of ["finished", "onfinish"]) listens(Animation.prototype, name);
  for (const name of ["onanimationend", "onanimationiteration", "onanimationstart", "ontransitionend", "ontransitionrun"])
    for (const proto of [HTMLElement.prototype, SVGElement.prototype, Document.prototype, window]) listens(proto, name);

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

  // --- audio and video: they stand still, and go to where the page's time is
  const media = new Map();
  const seeking = new Map();
  const mediaProto = HTMLMediaElement.prototype;
  const ownPause = mediaProto.pause;
  const ownPaused = Object.getOwnPropertyDescriptor(mediaProto, "paused");
  const ownTime = Object.getOwnPropertyDescriptor(mediaProto, "currentTime");
  const stands = (element) => ownTime.get.call(element);
  // Containers keep times to the millisecond: a picture that is due now may be noted as half of one later.
  const ROUNDED_S = 0.001;
  const go = (element, time) => {
    if (Math.abs(stands(element) - time) <= 1e-4 && element.readyState >= 2) return;
    seeking.set(element, { time, since: Date.now(), tries: 0, moved: false });
    ownTime.set.call(element, time);
  };
  Object.defineProperty(mediaProto, "currentTime", {
    configurable: true,
    get() {
      // A page sees the time that it asked for, and not the thousandth that is added to land in the picture.
      const known = media.get(this);
      return known ? mediaTime(this, known) : (asks.get(this) ?? stands(this));
    },
    set(value) {
      const time = Number(value);
      if (!Number.isFinite(time)) throw new TypeError("currentTime must be a finite number");
      const known = media.get(this);
      if (known) Object.assign(known, { base: now(), from: time });
      asks.set(this, time);
      pictured.add(this);
      go(this, time + ROUNDED_S);
    },
  });
  const asks = new WeakMap();
  Object.defineProperty(mediaProto, "paused", {
    configurable: true,
    get() {
      return !media.has(this) && ownPaused.get.call(this);
    },
  });
  const mediaTime = (element, known) => {
    const time = known.from + ((until - known.base) / 1000) * element.playbackRate;
    const end = element.duration;
    if (!(end > 0)) return time;
    return element.loop ? time % end : Math.min(time, end);
  };
  const plays = (element) => {
    if (!media.has(element)) media.set(element, { base: exact ?? until, from: asks.get(element) ?? stands(element) });
  };
  replace(mediaProto, "play", function () {
    plays(this);
    return Promise.resolve();
  });
  replace(mediaProto, "pause", function () {
    const known = media.get(this);
    if (known) asks.set(this, mediaTime(this, known));
    media.delete(this);
    ownPause.call(this);
  });
  // Detached elements count too: a page may draw a video that it never shows.
  const pictured = new Set();
  const ownCreate = Document.prototype.createElement;
  replace(Document.prototype, "createElement", function (...given) {
    const element = ownCreate.apply(this, given);
    if (element instanceof HTMLVideoElement) pictured.add(element);
    return element;
  });
  const all = () => new Set([...document.querySelectorAll("audio, video"), ...pictured]);
  const moveMedia = () => {
    for (const element of all()) {
      if (element.autoplay && !media.has(element) && !element.__begun) {
        // What it has played by itself until it was first looked at does not count.
        media.set(element, { base: until, from: 0 });
        element.__begun = true;
      }
      ownPause.call(element);
      const known = media.get(element);
      if (!known) continue;
      if (element.readyState < 1) element.preload = "auto";
      if (element.duration > 0) go(element, mediaTime(element, known) + ROUNDED_S);
    }
  };
  // "seeked" may come before the picture is there to be painted: on a busy machine it is several pictures late. Every
  // picture tells its time, and it is the one that is due unless the next could be, by the shortest gap seen so far.
  const gaps = new WeakMap();
  const arrived = (video, order, late) => {
    if (video.seeking || video.readyState < 2) return false;
    if (!(video instanceof HTMLVideoElement) || !video.videoWidth) return true;
    const known = gaps.get(video) ?? { at: null, gap: 0 };
    gaps.set(video, known);
    const picture = new VideoFrame(video);
    const at = picture.timestamp / 1e6;
    picture.close();
    const due = at <= order.time && order.time - at < 0.9 * known.gap;
    if (!due && !late) return false;
    if (known.at !== null && at > known.at) known.gap = Math.min(known.gap || Infinity, at - known.at);
    known.at = at;
    fresh.set(video, at);
    return true;
  };
  // Whether all that plays has got there; `late` takes what there is.
  const mediaReady = (late) => {
    for (const element of all()) {
      if (media.has(element) && element.readyState < 2 && !element.error && !late) return false;
    }
    for (const [element, order] of seeking) {
      if (element.error || arrived(element, order, late)) seeking.delete(element);
    }
    return seeking.size === 0;
  };
  // Callbacks for pictures of a video: with the animation frames, as the standard has them, when another one is there.
  const fresh = new Map();
  const watchers = new Map();
  let watches = 1;
  replace(HTMLVideoElement.prototype, "requestVideoFrameCallback", function (work) {
    pictured.add(this);
    if (!watchers.has(this)) watchers.set(this, new Map());
    watchers.get(this).set(watches, work);
    ask();
    return watches++;
  });
  replace(HTMLVideoElement.prototype, "cancelVideoFrameCallback", function (handle) {
    watchers.get(this)?.delete(handle);
  });
  let presented = 0;
  const tellPictures = () => {
    for (const [video, at] of fresh) {
      const works = watchers.get(video);
      if (!works?.size) continue;
      watchers.set(video, new Map());
      presented++;
      const facts = {
        mediaTime: at, presentedFrames: presented, presentationTime: exact, expectedDisplayTime: exact,
        width: video.videoWidth, height: video.videoHeight, processingDuration: 0,
      };
      for (const work of works.values()) call(work, [exact, facts]);
    }
    fresh.clear();
  };
  // A player hands its pictures to the painter by a clock of its own, some frames late. So its picture, which is
  // right as soon as it has been sent there, is painted as the element's background instead.
  const FITS = { fill: "100% 100%", contain: "contain", cover: "cover", none: "auto", "scale-down": "contain" };
  const present = async () => {
    for (const element of document.querySelectorAll("video")) {
      if (element.readyState < 2 || !element.videoWidth) continue;
      const canvas = ownCreate.call(document, "canvas");
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

  // --- what is still being fetched or decoded
  const counted = (promise) => {
    pending++;
    const done = () => pending--;
    promise.then(done, done);
    return promise;
  };
  replace(window, "fetch", (...given) => counted(real.fetch.apply(window, given)));
  replace(window, "createImageBitmap", (...given) => counted(real.image.apply(window, given)));
  const ownDecode = HTMLImageElement.prototype.decode;
  replace(HTMLImageElement.prototype, "decode", function () {
    return counted(ownDecode.call(this));
  });
  const pictures = new Set();
  const source = Object.getOwnPropertyDescriptor(HTMLImageElement.prototype, "src");
  Object.defineProperty(HTMLImageElement.prototype, "src", {
    ...source,
    set(value) {
      source.set.call(this, value);
      pictures.add(this);
    },
  });
  const busy = () => {
    for (const image of pictures) if (image.complete) pictures.delete(image);
    return pending > 0 || pictures.size > 0 || document.fonts.status !== "loaded" ||
      [...document.images].some((image) => !image.complete && image.loading !== "lazy");
  };

  // --- what has a clock of its own that nothing stops
  const context = window.BaseAudioContext;
  if (context) {
    const running = Object.getOwnPropertyDescriptor(context.prototype, "currentTime");
    const begun = new WeakMap();
    Object.defineProperty(context.prototype, "currentTime", {
      configurable: true,
      get() {
        if (this instanceof OfflineAudioContext) return running.get.call(this);
        if (!begun.has(this)) begun.set(this, now());
        return (now() - begun.get(this)) / 1000;
      },
    });
    const analyse = window.AnalyserNode?.prototype;
    for (const name of ["getByteFrequencyData", "getFloatFrequencyData", "getByteTimeDomainData", "getFloatTimeDomainData"]) {
      const own = analyse?.[name];
      if (own) replace(analyse, name, function (...given) {
        untamed.add("the sound that an AnalyserNode hears");
        return own.apply(this, given);
      });
    }
  }
  for (const [name, words] of [
    ["SharedWorker", "a shared worker"], ["WebSocket", "a WebSocket"], ["RTCPeerConnection", "WebRTC"],
    ["MediaRecorder", "a MediaRecorder"], ["WebTransport", "WebTransport"], ["AudioWorkletNode", "an audio worklet"],
  ]) {
    const own = window[name];
    if (own) window[name] = new Proxy(own, { construct: (target, given) => {
      untamed.add(words);
      return new target(...given);
    } });
  }

  const battery = window.Navigator?.prototype.getBattery;
  if (battery) replace(Navigator.prototype, "getBattery", function () {
    untamed.add("the machine's battery");
    return battery.call(this);
  });

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

  // What runs by itself: seconds of one time, how often (null: without end), seconds before it begins.
  const courses = () => {
    const told = [];
    for (const animation of document.getAnimations()) {
      if (!animation.effect) continue;
      const { duration, iterations, delay, direction } = animation.effect.getComputedTiming();
      if (!(duration > 0) || animation instanceof CSSTransition) continue;
      const rate = Math.abs(animation.playbackRate) || 1;
      const both = direction.startsWith("alternate") && iterations > 1;
      const times = Number.isFinite(iterations) ? iterations / (both ? 2 : 1) : null;
      const name = animation.animationName || animation.id || "";
      told.push([name, ((both ? 2 : 1) * duration) / 1000 / rate, times, delay / 1000 / rate]);
    }
    for (const element of document.querySelectorAll(SMIL)) {
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
  const SMIL = "animate, animateTransform, animateMotion, set";
  const moves = (svg) => !svg.ownerSVGElement && !svg.animationsPaused() && svg.querySelector(SMIL) !== null;
  const each = (work) => {
    work(window.__vexel);
    for (let k = 0; k < window.frames.length; k++) {
      try {
        if (window.frames[k].__vexel) window.frames[k].__vexel.each(work);
      } catch {
        // A frame of another origin has neither our clock nor a network.
      }
    }
  };
  // Whether the page paints its whole canvas in a colour of its own, as CSS 2.2 says in 14.2.
  const covers = () => {
    const root = document.documentElement;
    const { opacity, filter, mixBlendMode, clipPath, maskImage } = getComputedStyle(root);
    const whole = [opacity, filter, mixBlendMode, clipPath, maskImage].join() === "1,none,normal,none,none";
    const painted = (element) => {
      const colour = element ? getComputedStyle(element).backgroundColor : "transparent";
      // Colours that are partly clear have a fourth number.
      return colour !== "transparent" && !/^rgba|\//.test(colour);
    };
    return whole && (painted(root) || painted(document.body));
  };

  window.__vexel = {
    each,
    courses,
    present,
    seed: (value, dials) => {
      state = value | 0;
      window.vexelDials = Object.freeze(dials);
    },
    errors: () => errors,
    untamed: () => [...untamed],
    seeks: () => typeof window.vexelSeek === "function",
    busy: () => {
      let found = false;
      each((of) => {
        found ||= of.isBusy();
      });
      return found;
    },
    isBusy: busy,
    // Time may go on to here, in milliseconds; tells where the browser's own clock stands.
    allow: (to) => {
      each((of) => of.setUntil(to));
      return real.now();
    },
    setUntil: (to) => {
      until = to;
    },
    // Time has come there: media follow it, and the next frame that is made is one that the page sees. Tells what is
    // still to be waited for.
    arrive: () => {
      let [media, busy, needs] = [0, false, 0];
      each((of) => {
        media += of.media();
        busy ||= of.isBusy();
        needs = Math.max(needs, of.needs());
        of.opened();
      });
      return [media, busy, needs, covers()];
    },
    opened: () => {
      open = true;
      if (waiting.size || fresh.size) ask();
    },
    // What frames the page would notice beside those of which a picture is taken: 0 none, 1 its own work of one, 2 a
    // whole one, by which what runs by itself goes on and tells of its end.
    needs: () => {
      const animations = document.getAnimations();
      // What was told to play or to pause does so with the next frame.
      if (animations.some((one) => one.pending)) return 2;
      if (!waiting.size && !timers.size && !hears) return 0;
      // A timer may pause or set the time of pictures that move, which go by the last frame.
      if (timers.size && [...document.querySelectorAll("svg")].some(moves)) return 2;
      return animations.some((one) => one.playState === "running") ? 2 : 1;
    },
    // A frame that nobody sees: the page's own work of it, and no painting.
    pass: () => each((of) => of.passed()),
    passed: () => flush(),
    media: () => {
      moveMedia();
      return all().size;
    },
    mediaReady: (late) => {
      let ready = true;
      each((of) => {
        ready = of.isReady(late) && ready;
      });
      return ready;
    },
    isReady: mediaReady,
    // A page that goes to any time by itself: its own animations go there too.
    seek: async (seconds, frame) => {
      until = seconds * 1000;
      try {
        await window.vexelSeek(seconds, frame);
      } catch (error) {
        report(error);
      }
      for (const animation of document.getAnimations()) {
        animation.pause();
        animation.currentTime = seconds * 1000;
      }
      for (const svg of document.querySelectorAll("svg")) {
        if (svg.ownerSVGElement) continue;
        svg.pauseAnimations();
        svg.setCurrentTime(seconds);
      }
    },
  };
})();
