import { useRef } from "react";
import { useDrag } from "../../parts/hooks/useDrag";
import type { Item, ReelData } from "./reelItems";
import { mayTrim, type Side, sameTrim, type Trim, trimmed, trimOf } from "./trim";

interface Props {
  reel: ReelData;
  items: Item[];
  number: number;
  side: Side;
  /** Pixels of a frame of the reel. */
  perFrame: number;
  onTrim: (trim: Trim | null) => void;
  onTrimmed: (trim: Trim) => void;
}

/** An end of a card: dragged, or moved by arrow keys, what is played begins or ends at another frame. */
export function TrimHandle({ reel, items, number, side, perFrame, onTrim, onTrimmed }: Props) {
  const last = useRef<Trim | null>(null);
  const now = () => trimOf(reel, items, number, side);
  const drag = useDrag<Trim>({
    start: (event) => {
      event.stopPropagation();
      last.current = now();
      onTrim(last.current);
      return last.current;
    },
    move: (from, { dx }) => {
      last.current = trimmed(reel, items, from, dx / perFrame);
      onTrim(last.current);
    },
    end: (from) => {
      if (last.current && !sameTrim(last.current, from)) onTrimmed(last.current);
      last.current = null;
      onTrim(null);
    },
  });
  if (!mayTrim(reel, items, number, side)) return null;
  const trim = now();
  const media = reel.items[number]?.media ?? 0;
  const value = media === 0 ? trim.length : side === "start" ? trim.first : trim.last;
  const name = reel.items[number]?.name ?? "";
  const what = media === 0 ? "Length" : side === "start" ? "First frame" : "Last frame";
  return (
    <span
      role="slider"
      tabIndex={0}
      aria-label={`${what} of ${name}`}
      aria-valuenow={value}
      aria-valuemin={media === 0 ? 1 : 0}
      aria-valuemax={media === 0 ? undefined : media - 1}
      title={`Drag to trim; arrow keys by a frame`}
      className={`group absolute bottom-0 flex size-6 cursor-ew-resize touch-none items-center ${side === "start" ? "left-0 pl-1.5" : "right-0 justify-end pr-1.5"}`}
      {...drag.handlers}
      onFocus={() => {
        last.current = null;
        onTrim(now());
      }}
      onBlur={() => onTrim(null)}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key];
        if (!by || event.altKey) return;
        event.preventDefault();
        event.stopPropagation();
        const pace = media === 0 ? 1 : (reel.items[number]?.pace ?? 1) || 1;
        // Keys come faster than answers: each starts from the request before it.
        const from = last.current ?? trim;
        const next = trimmed(reel, items, from, by / pace);
        last.current = next;
        onTrim(next);
        if (!sameTrim(next, from)) onTrimmed(next);
      }}
    >
      <span className="h-3.5 w-1 rounded-full bg-base-content/35 group-hover:bg-primary group-focus:bg-primary" />
    </span>
  );
}
