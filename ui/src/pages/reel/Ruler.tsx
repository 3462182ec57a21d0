import { useRef } from "react";
import { useDrag } from "../../parts/hooks/useDrag";
import { clockOf, type ReelData } from "./reelItems";
import type { Scale } from "./scale";

export const UNITS = { seconds: "seconds", frames: "frames", timecode: "timecode" };
export type Unit = keyof typeof UNITS;

interface Props {
  reel: ReelData;
  scale: Scale;
  unit: Unit;
  frame: number;
  onFrame: (frame: number) => void;
}

/** Pixels between two marks, at least. */
const APART = { seconds: 64, frames: 72, timecode: 112 };
const STEPS = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600, 7200];

/** Frames, seconds or timecode below the cards; a press or a drag goes to a frame, arrow keys step. */
export function Ruler({ reel, scale, unit, frame, onFrame }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const last = reel.frames - 1;
  const clamp = (to: number) => Math.min(Math.max(to, 0), last);
  const go = (x: number) => {
    const rect = box.current?.getBoundingClientRect();
    if (rect) onFrame(clamp(Math.floor(scale.frame(x - rect.left))));
  };
  const drag = useDrag<number>({
    start: (event) => {
      go(event.clientX);
      return event.clientX;
    },
    move: (_, { event }) => go(event.clientX),
  });
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
      style={{ width: scale.width }}
      {...drag.handlers}
      onKeyDown={(event) => {
        const by = step[event.key as keyof typeof step];
        const to = event.key === "Home" ? 0 : event.key === "End" ? last : by ? frame + by : null;
        if (to === null || event.altKey) return;
        event.preventDefault();
        onFrame(clamp(to));
      }}
    >
      {marksOf(reel, scale, unit).map((mark) => (
        <span
          key={mark.frame}
          className="figures quiet absolute top-0 whitespace-nowrap border-l pl-1 text-note rule"
          style={{ left: mark.x }}
        >
          {mark.text}
        </span>
      ))}
      <span
        className="absolute -top-0.5 bottom-0 w-0.5 bg-primary"
        style={{ left: scale.x(frame + 0.5) }}
        aria-hidden
      />
    </div>
  );
}

/** Marks at whole steps, as many as there is room for. */
function marksOf(reel: ReelData, scale: Scale, unit: Unit) {
  const base = unit === "frames" ? 1 : Math.max(reel.rate, 1e-6);
  const fit = Math.max(scale.width / APART[unit], 1);
  const wanted = reel.frames / base / fit;
  const step = STEPS.find((one) => one >= wanted) ?? Math.ceil(wanted / 3600) * 3600;
  const marks: { frame: number; x: number; text: string }[] = [];
  let free = 0;
  for (let at = 0; at * step * base < reel.frames && marks.length < 2000; at++) {
    const frame = Math.round(at * step * base);
    const x = scale.x(frame);
    if (x < free || x > scale.width - APART[unit] / 2) continue;
    free = x + APART[unit];
    const text =
      unit === "seconds" ? `${at * step} s` : unit === "frames" ? String(frame) : clockOf(frame, reel.rate);
    marks.push({ frame, x, text });
  }
  return marks;
}
