import type { KeyboardEvent } from "react";
import { type Item, pictureOf, type ReelData, type Selection, selected } from "./reelItems";
import { spanOf } from "./scale";
import { TrimHandle } from "./TrimHandle";
import type { Trim } from "./trim";

interface Props {
  reel: ReelData;
  items: Item[];
  number: number;
  selection: Selection;
  left: number;
  width: number;
  perFrame: number;
  dragged: boolean;
  onDrag: (number: number | null) => void;
  onSelect: (selection: Selection) => void;
  onMove: (from: number, to: number) => void;
  onRemove: (first: number, last: number) => void;
  onTrim: (trim: Trim | null) => void;
  onTrimmed: (trim: Trim) => void;
}

/** Below this width in pixels a card shows only what distinguishes its name from others. */
const NARROW = 170;

/** One item of the row, its ends, and its transition to the next. */
export function Card(props: Props) {
  const { reel, number, selection, onSelect, onMove, onRemove } = props;
  const item = reel.items[number];
  if (!item) return null;
  const [first, last] = selected(selection);
  const chosen = number >= first && number <= last;
  const extend = (to: number) =>
    selection.of === "item" &&
    onSelect({ ...selection, to: Math.min(Math.max(to, 0), reel.items.length - 1) });
  const keys = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by && event.altKey) onMove(number, number + by);
    else if (by && event.shiftKey)
      extend((selection.of === "item" ? (selection.to ?? selection.item) : number) + by);
    else if (event.key === "Delete") onRemove(chosen ? first : number, chosen ? last : number);
    else return;
    event.preventDefault();
  };
  const { from, to } = spanOf(reel, number);
  const middle = Math.floor((from + to) / 2);
  return (
    <li className="absolute inset-y-0" style={{ left: props.left, width: props.width }}>
      <button
        type="button"
        draggable
        onDragStart={() => props.onDrag(number)}
        onDragEnd={() => props.onDrag(null)}
        onKeyDown={keys}
        onClick={(event) =>
          event.shiftKey && selection.of === "item" ? extend(number) : onSelect({ of: "item", item: number })
        }
        aria-pressed={chosen}
        aria-keyshortcuts="Alt+ArrowLeft Alt+ArrowRight Shift+ArrowLeft Shift+ArrowRight Delete"
        title="Drag to reorder, at its ends to trim; Shift selects several"
        className={`flex h-20 w-full min-w-0 flex-col justify-between overflow-hidden rounded-box border bg-base-100 px-4 py-1 text-left text-note ${
          chosen ? "border-primary ring-1 ring-primary" : item.trouble ? "border-error" : "rule"
        } ${props.dragged ? "opacity-50" : ""}`}
      >
        <span className="flex min-w-0 gap-1.5">
          <img
            src={pictureOf(reel, Math.min(middle, reel.frames - 1), 96)}
            alt=""
            loading="lazy"
            draggable={false}
            className="h-9 w-14 min-w-0 rounded-sm object-cover"
          />
          {props.width > 110 && (
            <span className="min-w-0 flex-1 truncate font-semibold">
              {props.width < NARROW ? item.name.split(", ").at(-1) : item.name}
            </span>
          )}
        </span>
        <span className="figures quiet mx-2.5 truncate">
          {item.trouble ? "missing" : props.width > 140 ? `${item.frames} frames` : item.frames}
        </span>
      </button>
      <TrimHandle {...props} side="start" />
      <TrimHandle {...props} side="end" />
      {number < reel.items.length - 1 && <TransitionButton {...props} />}
    </li>
  );
}

function TransitionButton({ reel, items, number, selection, onSelect }: Props) {
  const [item, after] = [reel.items[number], reel.items[number + 1]];
  const chosen = selection.of === "transition" && selection.item === number;
  return (
    <button
      type="button"
      className={`figures absolute -right-3.5 top-1 z-10 flex h-6 min-w-7 items-center justify-center rounded-full border bg-base-200 px-1 text-note ${chosen ? "border-primary ring-1 ring-primary" : "rule"}`}
      aria-label={`Transition from ${item?.name} to ${after?.name}: ${items[number]?.transition?.kind ?? "cut"}, ${item?.overlap} frames`}
      aria-pressed={chosen}
      onClick={() => onSelect({ of: "transition", item: number })}
    >
      {item?.overlap || "|"}
    </button>
  );
}
