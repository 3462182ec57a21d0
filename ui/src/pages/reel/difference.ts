import type { Patch } from "../../api/client";
import { merged } from "../../api/merge";
import { type Item, itemsOf, type ReelData } from "./reelItems";

/** An answer with the items that it leaves out, which are those of the one before; null where that is not at hand. */
export function whole(now: ReelData | undefined, answer: ReelData): ReelData | null {
  if (answer.since === "") return answer;
  if (answer.since !== now?.state) return null;
  const { head, tail } = answer;
  const filled = <T>(before: T[], middle: T[]): T[] => [
    ...before.slice(0, head),
    ...middle,
    ...before.slice(before.length - tail),
  ];
  return {
    ...answer,
    items: filled(now.items, answer.items),
    document: { ...answer.document, items: filled(itemsOf(now), itemsOf(answer)) },
    since: "",
    head: 0,
    tail: 0,
  };
}

/** Items that are changed or taken out, and those that are put in, each by the places before the change. */
export interface ItemsPatch {
  change?: Record<string, Patch>;
  remove?: number[];
  insert?: Record<string, Item[]>;
}

/** Items with a patch, as the server applies it. */
export function patchedItems(items: Item[], patch: ItemsPatch | Item[]): Item[] {
  if (Array.isArray(patch)) return patch;
  const { change = {}, remove = [], insert = {} } = patch;
  const gone = new Set(remove);
  const made = items.flatMap((item, at) => [
    ...(insert[at] ?? []),
    ...(gone.has(at) ? [] : [change[at] ? merged(item, change[at]) : item]),
  ]);
  return [...made, ...(insert[items.length] ?? [])];
}

/** The patch that makes one row of items of another: what lies between items that are the same at both ends. */
export function itemsPatch(before: Item[], after: Item[]): ItemsPatch {
  let head = 0;
  while (head < before.length && head < after.length && before[head] === after[head]) head++;
  let tail = 0;
  const most = Math.min(before.length, after.length) - head;
  while (tail < most && before[before.length - 1 - tail] === after[after.length - 1 - tail]) tail++;
  const gone = before.slice(head, before.length - tail).map((_, at) => head + at);
  const come = after.slice(head, after.length - tail);
  return { remove: gone, insert: come.length > 0 ? { [head]: come } : {} };
}
