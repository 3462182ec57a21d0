import { useRef, useState } from "react";
import { Refusal } from "../../../api/client";
import { useChange } from "../../../parts/hooks/useChange";
import { fetchPicture, type Wanted } from "../usePicture";
import type { Stretch } from "./usePlay";

/** Number of pictures that are kept; the farthest are dropped first. */
const MOST = 900;
const AT_ONCE = 2;

interface Film {
  address: string | null;
  /** Different pictures shown in the last second. */
  achieved: number;
}

/**
 * Pictures of a shot that is playing. They are fetched ahead of the playhead and
 * kept, so that what cannot be made in time the first time round is there the next.
 */
export function useFilm(playing: boolean, wanted: Wanted | null, stretch: Stretch, rate: number): Film {
  const reel = useRef(new Map<number, string>());
  const shown = useRef<{ address: string | null; times: number[] }>({ address: null, times: [] });
  const now = useRef({ wanted, stretch, rate });
  now.current = { wanted, stretch, rate };
  const [, drawAgain] = useState(0);
  const { frame: _frame, ...rest } = wanted ?? { frame: 0 };
  const key = JSON.stringify(rest);

  // Another revision, size or version makes other pictures.
  useChange(key, () => {
    const old = reel.current;
    reel.current = new Map();
    return () => {
      for (const address of [...old.values(), ...reel.current.values()]) URL.revokeObjectURL(address);
      reel.current = new Map();
      shown.current = { address: null, times: [] };
    };
  });

  useChange(`${playing} ${key}`, () => {
    if (!playing) return;
    let alive = true;
    const under = new Set<number>();
    let took = 100;
    let reached = -1;
    const fetchNext = async () => {
      while (alive) {
        const { wanted, stretch, rate } = now.current;
        // A picture must be there when its time comes; what cannot be made in time is left for the next round.
        const lead = Math.ceil((rate * took) / 1000) + 1;
        const stride = Math.max(Math.ceil((rate * took) / 1000 / AT_ONCE), 1);
        const next = wanted && nextMissing(wanted.frame, lead, stride, reached, stretch, reel.current, under);
        if (next == null || !wanted) {
          await new Promise((done) => setTimeout(done, 40));
          continue;
        }
        under.add(next);
        reached = next;
        const begun = performance.now();
        const got = await fetchPicture({ ...wanted, frame: next, quick: true });
        took += (performance.now() - begun - took) / 4;
        under.delete(next);
        if (got instanceof Refusal) await new Promise((done) => setTimeout(done, 300));
        else if (alive) keep(reel.current, next, got, wanted.frame, stretch.to - stretch.from + 1);
        else URL.revokeObjectURL(got);
      }
    };
    for (let n = 0; n < AT_ONCE; n++) void fetchNext();
    const second = setInterval(() => drawAgain((n) => n + 1), 250);
    return () => {
      alive = false;
      clearInterval(second);
    };
  });

  const address = wanted ? nearest(wanted.frame, rate / 2, reel.current) : null;
  const seen = shown.current;
  const time = performance.now();
  if (playing && address && address !== seen.address) {
    seen.address = address;
    seen.times.push(time);
  }
  seen.times = seen.times.filter((then) => time - then < 1000);
  return { address: playing ? (address ?? seen.address) : null, achieved: seen.times.length };
}

/** The next frame to make: in time for the playhead, a stride after the last one, and neither made nor requested. */
function nextMissing(
  at: number,
  lead: number,
  stride: number,
  reached: number,
  stretch: Stretch,
  reel: Map<number, string>,
  under: Set<number>,
) {
  const count = stretch.to - stretch.from + 1;
  const ahead = (frame: number) => (((frame - at) % count) + count) % count;
  const gone = reached < 0 ? 0 : ahead(reached);
  const first = gone >= lead && gone < count / 2 ? gone + stride : lead;
  for (let n = 0; n < Math.min(count, MOST); n++) {
    const frame = stretch.from + ((at - stretch.from + first + n) % count);
    if (!reel.has(frame) && !under.has(frame)) return frame;
  }
  return null;
}

/** The picture of a frame, or of the last one before it that is not long gone. */
function nearest(frame: number, reach: number, reel: Map<number, string>): string | null {
  for (let n = 0; n <= reach; n++) {
    const address = reel.get(frame - n);
    if (address) return address;
  }
  return null;
}

/** Keeps a picture; beyond what may be kept, the one that is shown again last goes. */
function keep(reel: Map<number, string>, frame: number, address: string, playhead: number, count: number) {
  reel.set(frame, address);
  if (reel.size <= MOST) return;
  const ahead = (n: number) => (((n - playhead) % count) + count) % count;
  const last = [...reel.keys()].reduce((far, n) => (ahead(n) > ahead(far) ? n : far));
  URL.revokeObjectURL(reel.get(last) ?? "");
  reel.delete(last);
}
