import { useQuery } from "@tanstack/react-query";
import { ChevronFirst, ChevronLast, ChevronLeft, ChevronRight } from "lucide-react";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Run, Shot } from "../../api/client";
import { instantQuery, statesQuery } from "../../api/queries";
import { short } from "../../parts/words";
import { drawStrip } from "./drawStrip";
import { driveName } from "./lanes";

interface Props {
  shot: Shot;
  frame: number;
  onFrame: (frame: number) => void;
  run?: Run;
}

const HEIGHT = 92;

/** One cell a frame, with lanes as curves, the states of the newest run, and the playhead. */
export function Strip({ shot, frame, onFrame, run }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const width = useWidth(holder);
  const theme = useThemeName();
  const frames = shot.reckoning.frames;
  const { data } = useQuery({
    ...statesQuery(run?.id ?? 0),
    enabled: run !== undefined && run.count === frames,
  });
  const states = run?.count === frames ? (data?.states ?? "") : "";

  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme changes the colours that are read from the page
  useEffect(() => {
    if (canvas.current && width > 0) {
      drawStrip(canvas.current, {
        width,
        height: HEIGHT,
        frames,
        frame,
        rate: rateOf(shot),
        curves: shot.curves,
        states,
      });
    }
  }, [width, frames, frame, shot, states, theme]);

  const frameAt = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = (event.clientX - box.left) / box.width;
    return Math.min(Math.max(Math.floor(share * frames), 0), frames - 1);
  };
  return (
    <div className="border-t rule bg-base-100 px-4 pb-2 pt-1">
      <div className="mb-0.5 flex items-center gap-1 text-[13px]">
        <Step label="First frame (Home)" onClick={() => onFrame(0)} icon={<ChevronFirst size={16} />} />
        <Step
          label="One frame back (left arrow)"
          onClick={() => onFrame(Math.max(frame - 1, 0))}
          icon={<ChevronLeft size={16} />}
        />
        <Step
          label="One frame on (right arrow)"
          onClick={() => onFrame(Math.min(frame + 1, frames - 1))}
          icon={<ChevronRight size={16} />}
        />
        <Step label="Last frame (End)" onClick={() => onFrame(frames - 1)} icon={<ChevronLast size={16} />} />
        <Where shot={shot} frame={frame} />
        <span className="flex-1" />
        <Legend states={states} curves={shot.curves} />
      </div>
      <div ref={holder}>
        <div
          role="slider"
          tabIndex={0}
          aria-label="Frame"
          aria-valuemin={0}
          aria-valuemax={frames - 1}
          aria-valuenow={frame}
          data-testid="strip"
          className="touch-none cursor-ew-resize"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            onFrame(frameAt(event));
          }}
          onPointerMove={(event) => event.buttons === 1 && onFrame(frameAt(event))}
        >
          <canvas ref={canvas} style={{ width, height: HEIGHT, display: "block" }} />
        </div>
      </div>
    </div>
  );
}

function Step({ label, onClick, icon }: { label: string; onClick: () => void; icon: React.ReactNode }) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs btn-square"
      aria-label={label}
      title={label}
      onClick={onClick}
    >
      {icon}
    </button>
  );
}

function Legend({ states, curves }: { states: string; curves: Shot["curves"] }) {
  return (
    <span className="quiet flex items-center gap-3 text-[12px]">
      {curves.map((curve) => (
        <span key={curve.drive}>
          <span className="text-primary" aria-hidden>
            ∿
          </span>{" "}
          {driveName(curve.drive)} {short(curve.low)}–{short(curve.high)}
        </span>
      ))}
      {states ? (
        <span>newest run: ▮ made · ▯ kept · ✕ failed · – waiting</span>
      ) : (
        <span>not captured in this length yet</span>
      )}
    </span>
  );
}

/** Where the frame stands, by every clock that people count by. */
function Where({ shot, frame }: { shot: Shot; frame: number }) {
  const { data } = useQuery(instantQuery(shot, frame));
  if (!data) return <span className="figures ml-2">{frame}</span>;
  const picked = data.motion_frame !== data.frame ? ` (motion ${data.motion_frame})` : "";
  return (
    <span className="figures ml-2" data-testid="where">
      {frame}
      {picked} · {data.seconds.toFixed(3)} s{data.timecode && ` · ${data.timecode}`} · phase{" "}
      {data.phase.toFixed(4)}
    </span>
  );
}

function rateOf(shot: Shot): number {
  const [over, under = "1"] = shot.reckoning.playback.split("/");
  return Number(over) / Number(under);
}

function useWidth(ref: React.RefObject<HTMLDivElement | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!ref.current) return;
    const observer = new ResizeObserver(([entry]) => setWidth(Math.floor(entry.contentRect.width)));
    observer.observe(ref.current);
    return () => observer.disconnect();
  }, [ref]);
  return width;
}

function useThemeName(): string {
  const [name, setName] = useState(document.documentElement.dataset.theme ?? "");
  useEffect(() => {
    const observer = new MutationObserver(() => setName(document.documentElement.dataset.theme ?? ""));
    observer.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => observer.disconnect();
  }, []);
  return name;
}
