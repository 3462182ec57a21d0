/** One stream of news for all pages of a browser, passed on to each of them. */

const RETRY_MS = 5000;
const channel = new BroadcastChannel("vexel-news");
let stream: EventSource;

function open(broken: boolean) {
  let gap = broken;
  const source = new EventSource("/api/events");
  stream = source;
  source.onmessage = (event) => channel.postMessage({ news: event.data });
  source.onopen = () => {
    channel.postMessage(gap ? { gap: true } : { open: true });
    gap = false;
  };
  source.onerror = () => {
    gap = true;
    if (source.readyState !== EventSource.CLOSED) return;
    // After a refusal, such as by a server that tells as many browsers as it can, it does not try again by itself.
    channel.postMessage({ gap: true });
    setTimeout(() => open(true), RETRY_MS);
  };
}

open(false);
// A page that joins while the stream is open hears of it as well.
addEventListener("connect", () => {
  if (stream.readyState === EventSource.OPEN) channel.postMessage({ open: true });
});
