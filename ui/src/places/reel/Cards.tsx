import { type KeyboardEvent, useRef, useState } from "react";
import { useDrag } from "../../parts/useDrag";
import { clockOf, itemsOf, pictureOf, type ReelData, type Selection } from "./reelItems";

interface Props {
  reel: ReelData;
  frame: number;
  selection: Selection;
  onSelect: (selection: Selection) => void;
  onFrame: (frame: number) => void;
  onMove: (from: number, to: number) => void;
  onRemove: (item: number) => void;
}

const LEAST = 64;

/** Items as cards, as wide as they are long, a joint between each two, and a ruler below. */
export function Cards({ reel, frame, selection, onSelect, onFrame, onMove, onRemove }: Props) {
  const [dragged, setDragged] = useState<number | null>(null);
  const items = itemsOf(reel);
  if (reel.items.length === 0) return null;
  const keys = (event: KeyboardEvent, number: number) => {
    if (event.altKey && event.key === "ArrowLeft") onMove(number, number - 1);
    else if (event.altKey && event.key === "ArrowRight") onMove(number, number + 1);
    else if (event.key === "Delete") onRemove(number);
    else return;
    event.preventDefault();
  };
  return (
    <div data-testid="cards">
      <ol className="flex overflow-x-auto pb-1" aria-label="Items">
        {reel.items.map((item, number) => {
          const chosen = selection.of === "item" && selection.item === number;
          const before = reel.items[number - 1]?.overlap ?? 0;
          const joint = items[number]?.joint;
          return (
            <li
              key={`${item.start} ${item.name}`}
              className="relative flex min-w-0"
              style={{ flex: `${Math.max(item.frames - before, 1)} 1 ${LEAST}px`, minWidth: LEAST }}
              onDragOver={(event) => event.preventDefault()}
              onDrop={(event) => {
                event.preventDefault();
                if (dragged !== null) onMove(dragged, number);
                setDragged(null);
              }}
            >
              <button
                type="button"
                draggable
                onDragStart={() => setDragged(number)}
                onDragEnd={() => setDragged(null)}
                onKeyDown={(event) => keys(event, number)}
                onClick={() => onSelect({ of: "item", item: number })}
                aria-pressed={chosen}
                aria-keyshortcuts="Alt+ArrowLeft Alt+ArrowRight Delete"
                title="Drag to reorder; Alt with the arrow keys moves it, Delete removes it"
                className={`flex h-20 w-full min-w-0 flex-col justify-between overflow-hidden rounded-box border bg-base-100 p-1.5 text-left text-note ${
                  chosen ? "border-primary ring-1 ring-primary" : item.trouble ? "border-error" : "rule"
                } ${dragged === number ? "opacity-50" : ""}`}
              >
                <span className="flex min-w-0 gap-1.5">
                  <img
                    src={pictureOf(
                      reel,
                      Math.min(item.start + Math.floor(item.frames / 2), reel.frames - 1),
                      96,
                    )}
                    alt=""
                    className="h-9 w-14 shrink-0 rounded-sm object-cover"
                  />
                  <span className="min-w-0 flex-1 truncate font-semibold">{item.name}</span>
                </span>
                <span className="figures quiet truncate">
                  {item.trouble ? "missing" : `${item.frames} frames`}
                </span>
              </button>
              {number < reel.items.length - 1 && (
                <button
                  type="button"
                  className={`figures absolute -right-3.5 top-1/2 z-10 flex h-6 min-w-7 -translate-y-1/2 items-center justify-center rounded-full border bg-base-200 px-1 text-note ${
                    selection.of === "joint" && selection.item === number
                      ? "border-primary ring-1 ring-primary"
                      : "rule"
                  }`}
                  aria-label={`Joint of ${item.name} and ${reel.items[number + 1]?.name}: ${joint?.kind ?? "cut"}, ${item.overlap} frames`}
                  aria-pressed={selection.of === "joint" && selection.item === number}
                  onClick={() => onSelect({ of: "joint", item: number })}
                >
                  {item.overlap || "|"}
                </button>
              )}
            </li>
          );
        })}
      </ol>
      <Ruler reel={reel} frame={frame} onFrame={onFrame} />
    </div>
  );
}

/** Frames and seconds below the cards; a press or a drag goes to a frame, arrow keys step. */
function Ruler({ reel, frame, onFrame }: Pick<Props, "reel" | "frame" | "onFrame">) {
  const box = useRef<HTMLDivElement>(null);
  const go = (x: number) => {
    const rect = box.current?.getBoundingClientRect();
    if (!rect) return;
    const share = Math.min(Math.max((x - rect.left) / rect.width, 0), 1);
    onFrame(Math.min(Math.floor(share * reel.frames), reel.frames - 1));
  };
  const drag = useDrag<number>({
    start: (event) => {
      go(event.clientX);
      return event.clientX;
    },
    move: (_, { event }) => go(event.clientX),
  });
  const seconds = Math.max(Math.ceil(reel.frames / reel.rate / 12), 1);
  const marks = Array.from(
    { length: Math.floor(reel.frames / reel.rate / seconds) + 1 },
    (_, at) => at * seconds,
  );
  const last = reel.frames - 1;
  const step = {
    ArrowLeft: -1,
    ArrowRight: 1,
    PageUp: Math.round(reel.rate),
    PageDown: -Math.round(reel.rate),
  };
  return (
    <div
      ref={box}
      role="slider"
      tabIndex={0}
      aria-label="Frame of the reel"
      aria-valuemin={0}
      aria-valuemax={last}
      aria-valuenow={frame}
      aria-valuetext={`frame ${frame}, ${clockOf(frame, reel.rate)}`}
      data-testid="reel-ruler"
      className="relative h-7 cursor-pointer touch-none border-t rule"
      {...drag.handlers}
      onKeyDown={(event) => {
        const by = step[event.key as keyof typeof step];
        const to = event.key === "Home" ? 0 : event.key === "End" ? last : by ? frame + by : null;
        if (to === null || event.altKey) return;
        event.preventDefault();
        onFrame(Math.min(Math.max(to, 0), last));
      }}
    >
      {marks
        .filter((second) => second * reel.rate < 0.97 * reel.frames)
        .map((second) => (
          <span
            key={second}
            className="figures quiet absolute top-0 whitespace-nowrap border-l pl-1 text-note rule"
            style={{ left: `${((second * reel.rate) / reel.frames) * 100}%` }}
          >
            {second} s
          </span>
        ))}
      <span
        className="absolute -top-0.5 bottom-0 w-0.5 bg-primary"
        style={{ left: `${((frame + 0.5) / Math.max(reel.frames, 1)) * 100}%` }}
        aria-hidden
      />
    </div>
  );
}
