import { useQuery } from "@tanstack/react-query";
import { Spline } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import type { Run, Shot } from "../../../api/client";
import { instantQuery, sourceQuery, stripQuery } from "../../../api/queries";
import { statesQuery } from "../../../api/runQueries";
import { targetName } from "../../../api/vocabulary";
import { short } from "../../../parts/format";
import { useDetails } from "../../../parts/hooks/useDetails";
import { useDrag } from "../../../parts/hooks/useDrag";
import { useThemeName } from "../../../parts/hooks/useThemeName";
import { useWheel } from "../../../parts/hooks/useWheel";
import { shortcutOf, withKeys } from "../../../parts/shell/shortcuts";
import type { PathFigures } from "../camera/usePathFigures";
import type { Edit } from "../edit";
import type { Drivable, Lane } from "../lanes";
import { rateOf } from "../play/rate";
import type { Playing, Stretch } from "../play/usePlay";
import { drawStrip, RULER, STATES } from "./drawStrip";
import { KeyBar } from "./KeyBar";
import type { KeyAt } from "./keys";
import { LaneRows } from "./LaneRows";
import { ROW } from "./rows";
import { StripBar, type Unit } from "./StripBar";
import { holding, panned, placeAt, type View, whole, zoomed } from "./view";

const NO_TARGETS: Drivable[] = [];

interface Props {
  shot: Shot;
  frame: number;
  onFrame: (frame: number) => void;
  run?: Run;
  edit: Edit;
  playing: Playing;
  loop: boolean;
  onLoop: (loop: boolean) => void;
  stretch: Stretch | null;
  onStretch: (stretch: Stretch | null) => void;
  open: boolean;
  onOpen: (open: boolean) => void;
  /** Lanes while they are dragged, not saved yet. */
  draft: Lane[] | null;
  onDraft: (lanes: Lane[] | null) => void;
  pathFigures: PathFigures | undefined;
}

const FLAT = 60;
const ROWS_IN_SIGHT = 3;
const MARK_WIDTH = 84;
const CLOSER = 1.6;
/** What a key does to the view: how much closer, 0 for all; and by how much of it sideways. */
const ZOOMS = { zoomIn: CLOSER, zoomOut: 1 / CLOSER, seeAll: 0 };
const PANS: Record<string, number> = { PageUp: -0.5, PageDown: 0.5 };

/** One cell a frame, with lanes as curves, the states of the newest run, and the playhead. */
export function Strip(props: Props) {
  const { shot, frame, onFrame, run, edit, playing, stretch, open, draft, onDraft } = props;
  const holder = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const width = useWidth(holder);
  const theme = useThemeName();
  const frames = shot.timing.frames;
  const [unit, setUnit] = useUnit();
  const [looked, setView] = useState<View>(whole(frames));
  const [chosen, setChosen] = useState<KeyAt[]>([]);
  const view = looked.to > frames || looked.to - looked.from < 1 ? whole(frames) : looked;
  const lanes = draft ?? shot.document.lanes ?? [];
  const { data: source } = useQuery(sourceQuery(shot));
  const of = source?.targets ?? NO_TARGETS;
  const tall = open && lanes.length > 0;
  const band = tall ? Math.min(lanes.length, ROWS_IN_SIGHT) * ROW : FLAT;
  const height = RULER + band + STATES + 3;

  const { data: states = "" } = useStates(run, frames);
  const { data: strip } = useQuery(
    stripQuery(shot, {
      first: Math.floor(view.from),
      last: Math.ceil(view.to),
      unit,
      marks: Math.max(Math.floor(width / MARK_WIDTH), 1),
      patch: draft ? { lanes: draft } : {},
    }),
  );
  const curves = strip?.curves ?? shot.curves;
  const { pathFigures } = props;
  const speeds = useMemo(
    () => ({ frames: pathFigures?.frames ?? [], values: pathFigures?.speeds ?? [] }),
    [pathFigures?.frames, pathFigures?.speeds],
  );
  const { data: instant } = useQuery({ ...instantQuery(shot, frame), enabled: !playing.going });
  const label = labelOf(unit, frame, shot, instant?.frame === frame ? instant : undefined);

  // The playhead stays in sight, unless the strip was moved away from it by hand.
  useEffect(() => setView((before) => holding(before, frames, frame)), [frame, frames]);
  const lengthBefore = useRef(frames);
  useEffect(() => {
    if (lengthBefore.current !== frames) setView(whole(frames));
    lengthBefore.current = frames;
  }, [frames]);

  useEffect(() => {
    if (!canvas.current || width <= 0) return;
    const ticks = strip?.ticks ?? [];
    drawStrip(canvas.current, {
      width,
      height,
      view,
      frames,
      frame,
      label,
      stretch,
      ticks,
      curves,
      states,
      bands: tall,
      speeds,
      theme,
    });
  }, [width, height, view, frames, frame, label, stretch, strip, curves, states, theme, tall, speeds]);

  const zoom = (factor: number, at = frame + 0.5) =>
    setView(factor === 0 ? whole(frames) : zoomed(view, frames, factor, at));
  useWheel(holder, (event) => {
    const corner = holder.current?.getBoundingClientRect();
    const sideways = event.shiftKey ? event.deltaY || event.deltaX : event.deltaX;
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
      setView(panned(view, frames, (sideways / width) * (view.to - view.from)));
    else zoom(Math.exp(-event.deltaY / 400), placeAt(event.clientX - (corner?.left ?? 0), view, width));
  });

  const onKeyDown = (event: KeyboardEvent) => {
    const act = shortcutOf(event, "zoomIn", "zoomOut", "seeAll") as keyof typeof ZOOMS | undefined;
    const factor = act && ZOOMS[act];
    const share = PANS[event.key];
    const taken = (event.target as Element).closest("input, select") || event.ctrlKey || event.metaKey;
    if (taken || (factor === undefined && share === undefined)) return;
    event.preventDefault();
    if (factor !== undefined) zoom(factor);
    else setView(panned(view, frames, share * (view.to - view.from)));
  };
  const frameAt = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return within(Math.floor(placeAt(event.clientX - box.left, view, width)), frames);
  };
  const scrub = useDrag<true>({
    start: (event) => {
      onFrame(frameAt(event));
      return true;
    },
    move: (_, { event }) => onFrame(frameAt(event)),
  });
  const save = (next: Lane[], what: string) => {
    onDraft(next);
    edit({ lanes: next }, what);
  };
  const keyed = { shot, lanes, chosen, onChoose: setChosen, drivables: of, onSave: save };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: its keys act from any part of the strip that has the focus
    <div className="border-t rule bg-base-100 px-4 pb-2 pt-1" onKeyDown={onKeyDown}>
      <StripBar
        {...{ frames, frame, onFrame, playing, stretch, unit }}
        loop={props.loop}
        onLoop={props.onLoop}
        onStretch={props.onStretch}
        onUnit={setUnit}
        onZoom={zoom}
        zoomed={view.to - view.from < frames}
      >
        <Where shot={shot} frame={frame} instant={instant?.frame === frame ? instant : undefined} />
        <span className="flex-1" />
        <Legend states={states} curves={tall ? [] : shot.curves} />
        {lanes.length > 0 && (
          <button
            type="button"
            className={`btn btn-xs ml-1 font-normal ${open ? "btn-primary" : ""}`}
            aria-expanded={open}
            title={withKeys("Lanes as curves with their keys", "lanes")}
            onClick={() => props.onOpen(!open)}
          >
            <Spline size={14} aria-hidden /> Lanes
          </button>
        )}
      </StripBar>
      {tall && <KeyBar {...keyed} frame={frame} />}
      <div ref={holder} className="relative" style={{ height }}>
        <div
          role="slider"
          tabIndex={0}
          aria-label="Frame"
          aria-valuemin={0}
          aria-valuemax={frames - 1}
          aria-valuenow={frame}
          aria-valuetext={label}
          data-testid="strip"
          className="touch-none cursor-ew-resize"
          {...scrub.handlers}
        >
          <canvas ref={canvas} style={{ width, height, display: "block" }} />
        </div>
        {tall && (
          <div
            className="absolute inset-x-0 overflow-y-auto overflow-x-hidden"
            style={{ top: RULER, height: band }}
            data-own-keys
          >
            <LaneRows
              {...keyed}
              {...{ curves, view, width }}
              onDraft={onDraft}
              onFrame={(at) => onFrame(within(at, frames))}
            />
          </div>
        )}
      </div>
    </div>
  );
}

const within = (at: number, frames: number) => Math.min(Math.max(at, 0), frames - 1);

function Legend({ states, curves }: { states: string; curves: Shot["curves"] }) {
  return (
    <span className="quiet flex min-w-0 items-center gap-3 overflow-hidden whitespace-nowrap text-note">
      {curves.slice(0, 2).map((curve) => (
        <span key={curve.drive}>
          <span className="text-primary" aria-hidden>
            ∿
          </span>{" "}
          {targetName(curve.drive)} {short(curve.low)}–{short(curve.high)}
        </span>
      ))}
      {curves.length > 2 && <span>and {curves.length - 2} more</span>}
      {states ? (
        <span>newest run: ▮ made · ▯ reused · ✕ failed · – waiting</span>
      ) : (
        <span>not captured at this length yet</span>
      )}
    </span>
  );
}

interface Instant {
  frame: number;
  seconds: number;
  timecode: string;
  motion_frame: number;
  phase: number;
}

/** Where the frame stands, by every clock that people count by. */
function Where({ shot, frame, instant }: { shot: Shot; frame: number; instant?: Instant }) {
  const details = useDetails();
  const seconds = (instant?.seconds ?? frame / rateOf(shot)).toFixed(3);
  const picked = instant && instant.motion_frame !== frame ? ` (motion ${instant.motion_frame})` : "";
  return (
    <span className="figures ml-2 whitespace-nowrap" data-testid="where">
      <span
        className="inline-block text-right"
        style={{ minWidth: `${String(shot.timing.frames).length}ch` }}
      >
        {frame}
      </span>
      {picked} · {seconds} s{instant?.timecode && ` · ${instant.timecode}`}
      {details && instant && ` · phase ${instant.phase.toFixed(4)}`}
    </span>
  );
}

function labelOf(unit: Unit, frame: number, shot: Shot, instant?: Instant): string {
  if (unit === "seconds") return `${short(frame / rateOf(shot))} s`;
  if (unit === "timecode" && instant?.timecode) return instant.timecode;
  if (unit === "phase" && instant) return short(instant.phase, 4);
  return frame.toLocaleString("en");
}

/** States of the newest run, if it has as many frames as the shot. */
function useStates(run: Run | undefined, frames: number) {
  const cameraPasses = run?.camera_passes.length ?? 1;
  const fits = run !== undefined && run.count === frames * cameraPasses;
  const { data } = useQuery({ ...statesQuery(run), enabled: fits });
  return { data: fits && data ? worstOf(data.states, cameraPasses) : undefined };
}

/** The worst state of each frame, of which a run with several cameras or passes makes several pictures. */
function worstOf(states: string, cameraPasses: number): string {
  if (cameraPasses === 1) return states;
  const worst = [];
  for (let n = 0; n < states.length; n += cameraPasses) {
    const within = states.slice(n, n + cameraPasses);
    worst.push(["f", "w", "m", "k"].find((state) => within.includes(state)) ?? "w");
  }
  return worst.join("");
}

/** What the ruler counts in; a browser remembers it. */
function useUnit(): [Unit, (unit: Unit) => void] {
  const [unit, setUnit] = useState<Unit>((localStorage.getItem("vexel-ruler") as Unit) ?? "frames");
  return [
    unit,
    (to) => {
      localStorage.setItem("vexel-ruler", to);
      setUnit(to);
    },
  ];
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
