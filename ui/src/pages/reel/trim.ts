import type { Item, ReelData } from "./reelItems";

export type Side = "start" | "end";

/** What is played of an item, while an end of it is moved. */
export interface Trim {
  item: number;
  side: Side;
  /** First and last frame that it plays; of an item without frames, such as a card, only its length. */
  first: number;
  last: number;
  length: number;
}

/** Whether an item plays frames that can be left out at its ends. */
const isPlayed = (reel: ReelData, number: number) => (reel.items[number]?.media ?? 0) > 0;

/** Whether an end of an item can be moved: an item without frames has a length only. */
export const mayTrim = (reel: ReelData, items: Item[], number: number, side: Side) =>
  isPlayed(reel, number) || (side === "end" && items[number]?.kind !== "reel" && !reel.items[number]?.source);

/** What is played now. */
export function trimOf(reel: ReelData, items: Item[], number: number, side: Side): Trim {
  const item = items[number] as { first?: number; last?: number | null } | undefined;
  const media = reel.items[number]?.media ?? 0;
  return {
    item: number,
    side,
    first: item?.first ?? 0,
    last: item?.last ?? Math.max(media - 1, 0),
    length: reel.items[number]?.frames ?? 1,
  };
}

/** The same with its end moved by `by` frames of the reel. */
export function trimmed(reel: ReelData, items: Item[], from: Trim, by: number): Trim {
  const media = reel.items[from.item]?.media ?? 0;
  if (media === 0) return { ...from, length: Math.max(from.length + Math.round(by), 1) };
  const item = items[from.item] as { repeat?: number; order?: string } | undefined;
  const each = Math.round((by * (reel.items[from.item]?.pace ?? 1)) / (item?.repeat ?? 1));
  // Played backward, what is seen first is the last frame.
  const first = (from.side === "start") !== (item?.order === "backward");
  const step = item?.order === "backward" ? -each : each;
  if (first) return { ...from, first: Math.min(Math.max(from.first + step, 0), from.last) };
  return { ...from, last: Math.min(Math.max(from.last + step, from.first), media - 1) };
}

/** The values of an item that a trim sets. */
export function valuesOf(reel: ReelData, trim: Trim): Record<string, unknown> {
  const media = reel.items[trim.item]?.media ?? 0;
  if (media === 0) return { frames: trim.length, seconds: null };
  return { first: trim.first, last: trim.last === media - 1 ? null : trim.last };
}

export const sameTrim = (one: Trim, other: Trim) =>
  one.first === other.first && one.last === other.last && one.length === other.length;
