import type { Reel, Schemas } from "../../api/client";

export type ReelData = Reel;
export type ReelDocument = ReelData["document"];
export type Item = NonNullable<ReelDocument["items"]>[number];
export type ReelFormat = NonNullable<ReelDocument["formats"]>[number];
export type Transition = NonNullable<Item["transition"]>;

/** What is open beside the picture; of items `to` is the last of several in a row. */
export type Selection =
  | { of: "item"; item: number; to?: number }
  | { of: "transition"; item: number }
  | { of: "reel" };

export const itemsOf = (reel: ReelData): Item[] => reel.document.items ?? [];

/** First and last number of the items that are selected; none is before none. */
export function selected(selection: Selection): [number, number] {
  if (selection.of !== "item") return [0, -1];
  const to = selection.to ?? selection.item;
  return [Math.min(selection.item, to), Math.max(selection.item, to)];
}

/** Items with one of them changed. */
export function withItem(items: Item[], number: number, values: Record<string, unknown>): Item[] {
  return items.map((item, at) => (at === number ? ({ ...item, ...values } as Item) : item));
}

export function withTransition(items: Item[], number: number, values: Partial<Transition>): Item[] {
  return withItem(items, number, { transition: { ...items[number]?.transition, ...values } });
}

/** Items with one moved to another place. */
export function moved<T>(items: T[], from: number, to: number): T[] {
  const others = items.filter((_, at) => at !== from);
  const item = items[from];
  return item !== undefined ? [...others.slice(0, to), item, ...others.slice(to)] : items;
}

/** Items with others put in before a number. */
export const inserted = (items: Item[], at: number, more: Item[]) => [
  ...items.slice(0, at),
  ...more,
  ...items.slice(at),
];

/** Items of which some that follow each other become one, which keeps the transition of the last. */
export function together(items: Item[], first: number, last: number, kind: "layout" | "group"): Item[] {
  const parts = items.slice(first, last + 1);
  const transition = parts.at(-1)?.transition;
  const one =
    kind === "group"
      ? { kind, items: parts, transition }
      : {
          kind,
          arrangement: arrangementFor(parts.length),
          cells: parts.map((item) => ({ item })),
          transition,
        };
  return [...items.slice(0, first), one as Item, ...items.slice(last + 1)];
}

const arrangementFor = (count: number) => (count > 3 ? "grid" : "row");

/** Items within an item. */
export function partsOf(item: Item): Item[] {
  if (item.kind === "group") return item.items as Item[];
  if (item.kind === "layout") return item.cells.map((cell) => cell.item as Item);
  return [];
}

/** Items of which one that holds others is taken apart. */
export function apart(items: Item[], number: number): Item[] {
  const item = items[number];
  if (!item) return items;
  const parts = partsOf(item).map((part, at, all) =>
    at === all.length - 1 ? ({ ...part, transition: item.transition } as Item) : part,
  );
  return [...items.slice(0, number), ...parts, ...items.slice(number + 1)];
}

/** A frame of a reel in one of its formats; the empty one is its own size. */
export const pictureOf = (reel: ReelData, frame: number, side: number, format = "") =>
  `/api/reels/${encodeURIComponent(reel.id)}/picture?frame=${frame}&side=${side}&of=${reel.revision}${
    format && `&format=${encodeURIComponent(format)}`
  }`;

/** A frame of what an item plays, by its number there. */
export const framePictureOf = (reel: ReelData, item: number, frame: number, side: number) =>
  `/api/reels/${encodeURIComponent(reel.id)}/items/${item}/picture?frame=${frame}&side=${side}&of=${reel.revision}`;

/** A frame as time of the reel, to the frame. */
export function clockOf(frame: number, rate: number): string {
  const base = Math.max(Math.round(rate), 1);
  const seconds = Math.floor(frame / base);
  const two = (value: number) => String(value).padStart(2, "0");
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}:${two(frame % base)}`;
}

/** Whether a run has all frames of its shot; one of some instants is no take to be played. */
export const isWhole = (run: Schemas["RunBody"]) => run.whole && run.made + run.kept === run.count;

/** The sizes in which files of a reel are made: its own, and those of its formats. */
export function sizesOf(reel: ReelData): Schemas["SizeBody"][] {
  const { width = 1920, height = 1080, formats = [] } = reel.document;
  return [{ format: "", width, height }, ...formats.map(({ name, ...size }) => ({ format: name, ...size }))];
}
