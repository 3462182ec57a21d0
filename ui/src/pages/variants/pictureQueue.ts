/** How many pictures are asked for at a time: others of the page's requests must not wait for them. */
const AT_ONCE = 2;

let running = 0;
const waiting: (() => void)[] = [];

function next() {
  while (running < AT_ONCE && waiting.length) {
    running += 1;
    waiting.shift()?.();
  }
}

/** Fetches a picture after those that wait; an aborted one is skipped. */
export function pictureOf(url: string, signal: AbortSignal): Promise<string> {
  return new Promise((resolve, reject) => {
    const begin = async () => {
      try {
        if (signal.aborted) throw signal.reason;
        const answer = await fetch(url, { signal });
        if (!answer.ok) throw new Error(((await answer.json()) as { error: string }).error);
        resolve(URL.createObjectURL(await answer.blob()));
      } catch (error) {
        reject(error);
      } finally {
        running -= 1;
        next();
      }
    };
    waiting.push(() => void begin());
    next();
  });
}
