import { CircleDot } from "lucide-react";
import { useEffect, useRef } from "react";
import { NumberEntry } from "../../../parts/entries/NumberEntry";
import type { PlayIn } from "./usePlayIn";

/** How a lane is played in: what to do, the slider, how fast, and the start. */
export function PlayInBar({ playIn }: { playIn: PlayIn }) {
  const { thing, going, value, speed } = playIn;
  const slider = useRef<HTMLInputElement>(null);
  useEffect(() => slider.current?.focus(), []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => event.key === "Escape" && playIn.cancel();
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [playIn]);
  if (!thing) return null;
  const name = thing.camera ? "the camera" : thing.of.name;
  return (
    <section
      className="flex items-center gap-3 border-t rule bg-base-100 px-4 py-2 text-small"
      aria-label={`Record ${name}`}
      data-testid="play-in"
    >
      <CircleDot size={17} className={going ? "text-error" : "text-primary"} aria-hidden />
      <span className="w-[19rem] leading-snug">
        <b>{going ? `Taking ${name}` : `Record ${name}`}.</b>{" "}
        {thing.camera
          ? "Start, then drag in the viewfinder while the shot plays."
          : "Start, then move the slider while the shot plays."}
      </span>
      {!thing.camera && (
        <>
          <input
            ref={slider}
            type="range"
            className="range range-primary range-sm flex-1"
            aria-label={`Slider for ${name}`}
            min={thing.of.usual_low}
            max={thing.of.usual_high}
            step={(thing.of.usual_high - thing.of.usual_low) / 500}
            value={value}
            onChange={(event) => playIn.setValue(Number(event.target.value))}
            onKeyDown={(event) => {
              if (event.key === "Enter" && !going) playIn.start();
            }}
          />
          <NumberEntry
            label={`Value of ${name}`}
            value={value}
            min={thing.of.low ?? undefined}
            max={thing.of.high ?? undefined}
            width="4.6rem"
            onCommit={playIn.setValue}
          />
        </>
      )}
      {thing.camera && <span className="flex-1" />}
      <label className="flex items-center gap-1.5">
        <span className="quiet">at</span>
        <select
          className="entry"
          value={speed}
          disabled={going}
          onChange={(event) => playIn.setSpeed(Number(event.target.value))}
        >
          <option value={1}>full speed</option>
          <option value={0.5}>half speed</option>
          <option value={0.25}>a quarter</option>
        </select>
      </label>
      <button type="button" className="btn btn-primary btn-sm" disabled={going} onClick={playIn.start}>
        {going ? "Playing…" : "Start"}
      </button>
      <button type="button" className="btn btn-sm" onClick={playIn.cancel}>
        Cancel
      </button>
    </section>
  );
}
