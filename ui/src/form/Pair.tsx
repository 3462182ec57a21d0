import type { ComponentProps } from "react";
import { NumberEntry } from "../parts/entries/NumberEntry";

type Entry = ComponentProps<typeof NumberEntry>;

/** Two numbers with a word between them. */
export function Pair({
  first,
  word,
  second,
  ...both
}: { first: Entry; word: string; second: Entry } & Partial<Entry>) {
  return (
    <>
      <NumberEntry {...both} {...first} />
      <span className="quiet text-small">{word}</span>
      <NumberEntry {...both} {...second} />
    </>
  );
}
