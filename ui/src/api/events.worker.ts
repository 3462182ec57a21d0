/** One stream of news for all pages of a browser, passed on to each of them. */

const RETRY_MS = 5000;
/** The server sends a heartbeat each second: after this time without one it does not answer. */
const SILENT_MS = 2300;
const channel = new BroadcastChannel("vexel-news");
let stream: EventSource;
let lost = false;
let heard = Date.now();

function open(broken: boolean) {
  let gap = broken;
  const source = new EventSource("/api/events");
  stream = source;
  source.onmessage = (event) => {
    hear();
    channel.postMessage({ news: event.data });
  };
  source.addEventListener("heartbeat", () => {
    hear();
    channel.postMessage({ lost });
  });
  source.onopen = () => {
    hear();
    channel.postMessage(gap ? { gap: true } : { open: true });
    gap = false;
  };
  source.onerror = () => {
    gap = true;
    tell(true);
    if (source.readyState !== EventSource.CLOSED) return;
    // After a refusal, such as by a server that serves as many browsers as it can, it does not try again by itself.
    channel.postMessage({ gap: true });
    setTimeout(() => open(true), RETRY_MS);
  };
}

function hear() {
  heard = Date.now();
  tell(false);
}

/** Passes on whether the server answers. */
function tell(now: boolean) {
  if (lost !== now) channel.postMessage({ lost: now });
  lost = now;
}

open(false);
setInterval(() => {
  if (Date.now() - heard > SILENT_MS) tell(true);
}, 300);
// A page that joins later is sent the state as well.
addEventListener("connect", () => {
  channel.postMessage({ lost });
  if (stream.readyState === EventSource.OPEN) channel.postMessage({ open: true });
});
