import type { Reel } from "../../api/client";

export type ReelData = Reel;
export type ReelDocument = ReelData["document"];
export type Item = NonNullable<ReelDocument["items"]>[number];
export type Joint = NonNullable<Item["joint"]>;

/** What is open beside the picture. */
export type Selection = { of: "item" | "joint"; item: number } | { of: "reel" };

export const itemsOf = (reel: ReelData): Item[] => reel.document.items ?? [];

/** Items with one of them changed. */
export function withItem(items: Item[], number: number, values: Record<string, unknown>): Item[] {
  return items.map((item, at) => (at === number ? ({ ...item, ...values } as Item) : item));
}

export function withJoint(items: Item[], number: number, values: Partial<Joint>): Item[] {
  return withItem(items, number, { joint: { ...items[number]?.joint, ...values } });
}

/** Items with one moved to another place. */
export function moved(items: Item[], from: number, to: number): Item[] {
  const others = items.filter((_, at) => at !== from);
  const item = items[from];
  return item ? [...others.slice(0, to), item, ...others.slice(to)] : items;
}

export const pictureOf = (reel: ReelData, frame: number, side: number) =>
  `/api/reels/${encodeURIComponent(reel.id)}/picture?frame=${frame}&side=${side}&of=${reel.revision}`;

/** A frame as time of the reel, to the frame. */
export function clockOf(frame: number, rate: number): string {
  const base = Math.max(Math.round(rate), 1);
  const seconds = Math.floor(frame / base);
  const two = (value: number) => String(value).padStart(2, "0");
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}:${two(frame % base)}`;
}
