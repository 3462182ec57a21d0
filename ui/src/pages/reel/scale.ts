import type { ReelData } from "./reelItems";

/** Cards are at least so wide, in pixels, that they can be taken hold of. */
export const LEAST = 64;

/** Positions of cards and frames across the row: widths follow lengths, but no card is too small to press. */
export interface Scale {
  width: number;
  /** Left edges of the cards, and the right edge of the last. */
  edges: number[];
  x: (frame: number) => number;
  frame: (x: number) => number;
  /** Pixels of a frame within a card. */
  perFrame: (item: number) => number;
}

export function scaleOf(reel: ReelData, room: number): Scale {
  const spans = reel.items.map((_, at) => spanOf(reel, at));
  const widths = widthsOf(
    spans.map(({ from, to }) => to - from),
    room,
  );
  const edges = [0];
  for (const width of widths) edges.push((edges.at(-1) ?? 0) + width);
  const perFrame = (item: number) => (widths[item] ?? 1) / Math.max(lengthOf(spans[item]), 1e-9);
  const x = (frame: number) => {
    const item = lastBefore(
      spans.map(({ from }) => from),
      frame,
    );
    return (edges[item] ?? 0) + (frame - (spans[item]?.from ?? 0)) * perFrame(item);
  };
  const frame = (at: number) => {
    const item = Math.min(lastBefore(edges, at), spans.length - 1);
    return (spans[item]?.from ?? 0) + (at - (edges[item] ?? 0)) / perFrame(item);
  };
  return { width: edges.at(-1) ?? 0, edges, x, frame, perFrame };
}

/** Where the card of an item begins and ends, in frames of the reel. */
export const spanOf = (reel: ReelData, item: number) => ({
  from: reel.edges[item] ?? 0,
  to: reel.edges[item + 1] ?? 0,
});

const lengthOf = (span?: { from: number; to: number }) => (span ? span.to - span.from : 0);

/** Widths in proportion to lengths, as far as none becomes too small. */
function widthsOf(lengths: number[], room: number): number[] {
  let small = new Set<number>();
  for (;;) {
    const wide = lengths.reduce((sum, length, at) => (small.has(at) ? sum : sum + length), 0);
    const each = wide > 0 ? Math.max(room - small.size * LEAST, 0) / wide : 0;
    const next = new Set(lengths.flatMap((length, at) => (length * each < LEAST ? [at] : [])));
    if (next.size === small.size)
      return lengths.map((length, at) => (small.has(at) ? LEAST : Math.max(length * each, LEAST)));
    small = next;
  }
}

/** The last of rising numbers that is not above a value. */
function lastBefore(rising: number[], value: number): number {
  let [low, high] = [0, rising.length - 1];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if ((rising[middle] ?? 0) <= value) low = middle;
    else high = middle - 1;
  }
  return Math.max(low, 0);
}
