import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Schemas, Shot } from "../../../api/client";
import { short } from "../../../parts/words";
import { type Drivable, driveName, easingOf, heightOf, type Lane, placeOf } from "../lanes";
import {
  along,
  bezier,
  eased,
  handlesOut,
  type KeyAt,
  type Move,
  moved,
  sameKey,
  withKeyAt,
  without,
} from "./keys";
import { placeAt, type View, xOf } from "./view";

export const ROW = 62;
const PAD = 10;
const NEAR = 4;

interface Props {
  shot: Shot;
  lanes: Lane[];
  curves: Schemas["LaneCurve"][];
  view: View;
  width: number;
  chosen: KeyAt[];
  onChoose: (keys: KeyAt[]) => void;
  drivables: Drivable[];
  /** Shows lanes that are not saved, while they are dragged; null shows the saved ones. */
  onDraft: (lanes: Lane[] | null) => void;
  onSave: (lanes: Lane[], what: string) => void;
  onFrame: (at: number) => void;
}

type Drag =
  | { kind: "keys"; x: number; y: number; keys: KeyAt[]; lanes: Lane[]; gone: boolean }
  | { kind: "handle"; at: KeyAt; second: boolean; lanes: Lane[] }
  | { kind: "box"; x: number; y: number; keep: KeyAt[]; gone: boolean };

/** Every lane as a curve with its keys: dragged in time and value, several at once, or moved by keys. */
export function LaneRows(props: Props) {
  const { shot, lanes, curves, view, width, chosen, onChoose, onDraft, onSave, onFrame } = props;
  const box = useRef<SVGSVGElement>(null);
  const drag = useRef<Drag | null>(null);
  const latest = useRef<Lane[] | null>(null);
  const [band, setBand] = useState<{ x: number; y: number; wide: number; high: number } | null>(null);
  const scales = lanes.map((lane, row) => scaleOf(shot, lane, row));
  const bounds = (drive: string): [number, number] | null => {
    const of = props.drivables.find((one) => one.drive === drive);
    return of ? [of.low, of.high] : null;
  };
  const points = lanes.flatMap((lane, row) => {
    const { frameOf } = along(shot, lane, curveOf(shot, lane));
    return lane.keys.map((key, n) => ({
      drive: lane.drive,
      key: n,
      frame: frameOf(placeOf(key)),
      x: inSight(xOf(frameOf(placeOf(key)) + 0.5, view, width), width / (view.to - view.from), width),
      y: scales[row].y(heightOf(key)),
    }));
  });

  const at = (event: PointerEvent) => {
    const corner = box.current?.getBoundingClientRect();
    return { x: event.clientX - (corner?.left ?? 0), y: event.clientY - (corner?.top ?? 0) };
  };
  const draft = (next: Lane[]) => {
    latest.current = next;
    onDraft(next);
  };
  const nameOf = (keys: KeyAt[]) =>
    `${keys.length === 1 ? "a key" : `${keys.length} keys`} of ${driveName(keys[0].drive)}`;
  const shift = (keys: KeyAt[], by: Move) => moved(shot, lanes, shot.curves, keys, by, bounds);

  const onPointerDown = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const mark = (event.target as Element).closest<SVGElement>("[data-key], [data-handle]");
    box.current?.setPointerCapture(event.pointerId);
    const point = at(event);
    if (mark?.dataset.handle) {
      const key = { drive: mark.dataset.drive ?? "", key: Number(mark.dataset.of) };
      drag.current = { kind: "handle", at: key, second: mark.dataset.handle === "2", lanes };
    } else if (mark) {
      mark.focus();
      const key = { drive: mark.dataset.drive ?? "", key: Number(mark.dataset.key) };
      const known = chosen.some((one) => sameKey(one, key));
      const keys = event.shiftKey
        ? known
          ? chosen.filter((one) => !sameKey(one, key))
          : [...chosen, key]
        : known
          ? chosen
          : [key];
      onChoose(keys);
      if (keys.length) drag.current = { kind: "keys", ...point, keys, lanes, gone: false };
    } else {
      drag.current = { kind: "box", ...point, keep: event.shiftKey ? chosen : [], gone: false };
    }
  };
  const onPointerMove = (event: PointerEvent) => {
    const now = drag.current;
    if (!now) return;
    const { x, y } = at(event);
    if (now.kind === "handle") return draft(bent(now, x, y));
    now.gone ||= Math.abs(x - now.x) > NEAR || Math.abs(y - now.y) > NEAR;
    if (!now.gone) return;
    if (now.kind === "box") {
      const area = {
        x: Math.min(x, now.x),
        y: Math.min(y, now.y),
        wide: Math.abs(x - now.x),
        high: Math.abs(y - now.y),
      };
      setBand(area);
      const within = points.filter(
        (p) => p.x >= area.x && p.x <= area.x + area.wide && p.y >= area.y && p.y <= area.y + area.high,
      );
      onChoose([...now.keep, ...within.map(({ drive, key }) => ({ drive, key }))]);
      return;
    }
    const frames = ((x - now.x) / width) * (view.to - view.from);
    // A drag along one way alone does not shake the other.
    const heights = Math.abs(y - now.y) > NEAR ? -(y - now.y) / (ROW - 2 * PAD) : 0;
    draft(
      moved(
        shot,
        now.lanes,
        shot.curves,
        now.keys,
        { frames: Math.abs(x - now.x) > NEAR ? frames : 0, heights, snap: !event.altKey },
        bounds,
      ),
    );
  };
  const onPointerUp = (event: PointerEvent) => {
    const now = drag.current;
    drag.current = null;
    setBand(null);
    if (now?.kind === "box" && !now.gone) {
      onChoose([]);
      onFrame(Math.floor(placeAt(at(event).x, view, width)));
    }
    if (latest.current && now && now.kind !== "box")
      onSave(
        latest.current,
        now.kind === "keys" ? nameOf(now.keys) : `the easing of ${driveName(now.at.drive)}`,
      );
    latest.current = null;
  };

  /** Lanes with a handle of an easing drawn to a point. */
  const bent = (now: Extract<Drag, { kind: "handle" }>, x: number, y: number): Lane[] => {
    const row = now.lanes.findIndex((lane) => lane.drive === now.at.drive);
    const lane = now.lanes[row];
    const handles = handlesOut(lane, now.at.key);
    const stretch = stretchOf(shot, lane, now.at.key, view, width, scales[row]);
    if (!handles || !stretch) return now.lanes;
    const to: [number, number] = [
      (x - stretch.x1) / (stretch.x2 - stretch.x1 || 1),
      (y - stretch.y1) / (stretch.y2 - stretch.y1 || -1),
    ];
    const next = now.second ? [handles[0], handles[1], ...to] : [...to, handles[2], handles[3]];
    return now.lanes.map((one) =>
      one === lane ? eased(lane, now.at.key, bezier(next as [number, number, number, number])) : one,
    );
  };

  const onKeyDown = (event: KeyboardEvent) => {
    const mark = (event.target as Element).closest<SVGElement>("[data-key]");
    const handle = (event.target as Element).closest<SVGElement>("[data-handle]");
    const by = event.shiftKey ? 10 : 1;
    const arrow = ARROWS[event.key];
    if (handle && arrow) {
      event.preventDefault();
      event.stopPropagation();
      const of = { drive: handle.dataset.drive ?? "", key: Number(handle.dataset.of) };
      const lane = lanes.find((one) => one.drive === of.drive);
      const handles = lane && handlesOut(lane, of.key);
      if (!lane || !handles) return;
      const next = [...handles] as [number, number, number, number];
      const first = handle.dataset.handle === "2" ? 2 : 0;
      next[first] += 0.02 * by * arrow[0];
      next[first + 1] += 0.02 * by * arrow[1];
      return onSave(
        lanes.map((one) => (one === lane ? eased(lane, of.key, bezier(next)) : one)),
        `the easing of ${driveName(of.drive)}`,
      );
    }
    if (event.key === "Escape") return onChoose([]);
    if (!mark) return;
    const key = { drive: mark.dataset.drive ?? "", key: Number(mark.dataset.key) };
    const keys = chosen.some((one) => sameKey(one, key)) ? chosen : [key];
    if (arrow) {
      event.preventDefault();
      event.stopPropagation();
      onChoose(keys);
      onSave(
        shift(keys, { frames: arrow[0] * by, heights: (arrow[1] * by) / 100, snap: true }),
        nameOf(keys),
      );
    } else if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      onChoose([]);
      onSave(without(lanes, keys), nameOf(keys));
    } else if (event.key === " " || event.key === "Enter") {
      event.preventDefault();
      event.stopPropagation();
      const known = chosen.some((one) => sameKey(one, key));
      onChoose(known ? chosen.filter((one) => !sameKey(one, key)) : [...chosen, key]);
    } else if (event.key === "a" && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      const lane = lanes.find((one) => one.drive === key.drive);
      onChoose((lane?.keys ?? []).map((_, n) => ({ drive: key.drive, key: n })));
    }
  };
  const onDoubleClick = (event: React.MouseEvent) => {
    const corner = box.current?.getBoundingClientRect();
    const row = Math.floor((event.clientY - (corner?.top ?? 0)) / ROW);
    const lane = lanes[row];
    if (!lane || lane.follows != null || (event.target as Element).closest("[data-key]")) return;
    const frame = Math.floor(placeAt(event.clientX - (corner?.left ?? 0), view, width));
    const place = along(shot, lane, curveOf(shot, lane)).placeAt(frame);
    const next = withKeyAt(lane, place, scales[row].value(event.clientY - (corner?.top ?? 0)));
    onSave(
      lanes.map((one) => (one === lane ? next : one)),
      `a key of ${driveName(lane.drive)}`,
    );
  };

  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing has no fieldset
    <svg
      ref={box}
      width={width}
      height={ROW * lanes.length}
      role="group"
      aria-label="Lanes"
      data-testid="lane-rows"
      className="block touch-none"
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={onPointerUp}
      onKeyDown={onKeyDown}
      onDoubleClick={onDoubleClick}
    >
      {lanes.map((lane, row) => (
        <g key={lane.drive}>
          <line x1={0} x2={width} y1={ROW * row} y2={ROW * row} className="stroke-base-300" />
          <path
            d={pathOf(
              curves.find((one) => one.drive === lane.drive),
              view,
              width,
              scales[row].y,
            )}
            className="fill-none stroke-primary"
            strokeWidth={1.75}
          />
          <text
            x={6}
            y={ROW * row + 14}
            className="pointer-events-none fill-base-content text-[12px] font-semibold"
          >
            {driveName(lane.drive)}
            <tspan className="font-normal" dx={6} opacity={0.75}>
              {lane.follows != null
                ? `follows ${driveName(lane.follows)}`
                : `${short(scales[row].low)} to ${short(scales[row].high)}`}
            </tspan>
          </text>
          {lane.keys.map((_, n) => (
            <Handles
              // biome-ignore lint/suspicious/noArrayIndexKey: a key that moves keeps its place in the lane
              key={n}
              lane={lane}
              number={n}
              shown={chosen.some((one) => sameKey(one, { drive: lane.drive, key: n }))}
              stretch={stretchOf(shot, lane, n, view, width, scales[row])}
            />
          ))}
        </g>
      ))}
      {points.map((point) => {
        const lane = lanes.find((one) => one.drive === point.drive) as Lane;
        return (
          <KeyMark
            key={`${point.drive} ${point.key}`}
            frame={point.frame}
            x={point.x}
            y={point.y}
            lane={lane}
            number={point.key}
            chosen={chosen.some((one) => sameKey(one, point))}
          />
        );
      })}
      {band && (
        <rect
          x={band.x}
          y={band.y}
          width={band.wide}
          height={band.high}
          className="fill-primary/10 stroke-primary"
          strokeDasharray="3 2"
        />
      )}
    </svg>
  );
}

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

interface MarkProps {
  lane: Lane;
  number: number;
  frame: number;
  x: number;
  y: number;
  chosen: boolean;
}

/** A key: round, or square where the value is held until the next. */
function KeyMark({ lane, number, frame, x, y, chosen }: MarkProps) {
  const key = lane.keys[number];
  const label = `${driveName(lane.drive)}, key ${number + 1} of ${lane.keys.length}: frame ${short(frame, 2)}, ${short(heightOf(key), 4)}`;
  const look = `stroke-primary ${chosen ? "fill-primary" : "fill-base-100"}`;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a button cannot stand in a drawing
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      aria-pressed={chosen}
      data-drive={lane.drive}
      data-key={number}
      className="cursor-move outline-offset-2"
    >
      <title>{label}</title>
      <circle cx={x} cy={y} r={10} fill="transparent" />
      {easingOf(key, lane) === "hold" ? (
        <rect x={x - 4.5} y={y - 4.5} width={9} height={9} strokeWidth={2} className={look} />
      ) : (
        <circle cx={x} cy={y} r={5} strokeWidth={2} className={look} />
      )}
    </g>
  );
}

interface Span {
  x1: number;
  y1: number;
  x2: number;
  y2: number;
}

/** The two handles of the easing out of a key that is chosen. */
function Handles({
  lane,
  number,
  shown,
  stretch,
}: {
  lane: Lane;
  number: number;
  shown: boolean;
  stretch: Span | null;
}) {
  const handles = shown ? handlesOut(lane, number) : null;
  if (!handles || !stretch) return null;
  const { x1, y1, x2, y2 } = stretch;
  const ends = [
    { n: "1", x: x1 + handles[0] * (x2 - x1), y: y1 + handles[1] * (y2 - y1), from: [x1, y1] },
    { n: "2", x: x1 + handles[2] * (x2 - x1), y: y1 + handles[3] * (y2 - y1), from: [x2, y2] },
  ];
  return ends.map((end) => (
    <g key={end.n}>
      <line
        x1={end.from[0]}
        y1={end.from[1]}
        x2={end.x}
        y2={end.y}
        className="stroke-base-content"
        opacity={0.6}
      />
      {/* biome-ignore lint/a11y/useSemanticElements: a button cannot stand in a drawing */}
      <g
        role="button"
        tabIndex={0}
        aria-label={`${driveName(lane.drive)}, handle ${end.n} out of key ${number + 1}`}
        data-handle={end.n}
        data-drive={lane.drive}
        data-of={number}
        className="cursor-grab"
      >
        <circle cx={end.x} cy={end.y} r={9} fill="transparent" />
        <path
          d={`M${end.x} ${end.y - 4.5}l4.5 4.5l-4.5 4.5l-4.5 -4.5z`}
          className="fill-base-100 stroke-base-content"
          strokeWidth={1.5}
        />
      </g>
    </g>
  ));
}

/** Keys at the very ends are drawn whole: the end of a loop lies one frame beyond its last. */
function inSight(x: number, cell: number, width: number): number {
  if (x < -cell || x > width + cell) return x;
  return Math.min(Math.max(x, 6), width - 6);
}

interface Scale {
  low: number;
  high: number;
  y: (value: number) => number;
  value: (y: number) => number;
}

const curveOf = (shot: Shot, lane: Lane) => shot.curves.find((one) => one.drive === lane.drive);

/** Heights of a row: those of the saved lane, so that nothing slides away under a drag. */
function scaleOf(shot: Shot, lane: Lane, row: number): Scale {
  const curve = curveOf(shot, lane);
  const low = curve?.low ?? 0;
  const high = curve?.high ?? 1;
  const flat = high === low;
  const range = flat ? 1 : high - low;
  const bottom = ROW * (row + 1) - PAD;
  const tall = ROW - 2 * PAD;
  return {
    low,
    high,
    y: (value) => bottom - (flat ? 0.5 : 0) * tall - ((value - low) / range) * tall,
    value: (y) => low + ((bottom - y) / tall - (flat ? 0.5 : 0)) * range,
  };
}

function stretchOf(
  shot: Shot,
  lane: Lane,
  number: number,
  view: View,
  width: number,
  scale: Scale,
): Span | null {
  const [key, next] = [lane.keys[number], lane.keys[number + 1]];
  if (!key || !next) return null;
  const { frameOf } = along(shot, lane, curveOf(shot, lane));
  return {
    x1: xOf(frameOf(placeOf(key)) + 0.5, view, width),
    y1: scale.y(heightOf(key)),
    x2: xOf(frameOf(placeOf(next)) + 0.5, view, width),
    y2: scale.y(heightOf(next)),
  };
}

function pathOf(
  curve: Schemas["LaneCurve"] | undefined,
  view: View,
  width: number,
  y: (value: number) => number,
) {
  if (!curve?.values.length) return "";
  const points = curve.values.map(
    (value, n) => `${xOf(curve.frames[n] + 0.5, view, width).toFixed(1)} ${y(value).toFixed(1)}`,
  );
  return `M${points.join("L")}`;
}
