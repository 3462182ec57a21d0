/** One stream of news for all pages of a browser, passed on to each of them. */

const RETRY_MS = 5000;
const channel = new BroadcastChannel("vexel-news");

function open(broken: boolean) {
  let gap = broken;
  const source = new EventSource("/api/events");
  source.onmessage = (event) => channel.postMessage({ news: event.data });
  source.onopen = () => {
    if (gap) channel.postMessage({ gap: true });
    gap = false;
  };
  source.onerror = () => {
    gap = true;
    // After a refusal, such as by a server that does not know this browser yet, it does not try again by itself.
    if (source.readyState === EventSource.CLOSED) setTimeout(() => open(true), RETRY_MS);
  };
}

open(false);
