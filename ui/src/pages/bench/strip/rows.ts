import type { Schemas, Shot } from "../../../api/client";
import { heightOf, type Lane, placeOf } from "../lanes";
import { along, type KeyAt } from "./keys";
import { type View, xOf } from "./view";

/** Height of a lane's row, and the room above and below its curve. */
export const ROW = 62;
const PAD = 10;
export const TALL = ROW - 2 * PAD;

/** Where the rows are looked at. */
export interface Sight {
  shot: Shot;
  view: View;
  width: number;
}

/** From a key to the next. */
export interface Span {
  x1: number;
  y1: number;
  x2: number;
  y2: number;
}

export interface Point extends KeyAt {
  frame: number;
  x: number;
  y: number;
}

/** Where every key of the lanes is drawn. */
export function pointsOf({ shot, view, width }: Sight, lanes: Lane[], scales: Scale[]): Point[] {
  return lanes.flatMap((lane, row) => {
    const { frameOf } = along(shot, lane, curveOf(shot, lane));
    return lane.keys.map((key, n) => {
      const frame = frameOf(placeOf(key));
      const x = inSight(xOf(frame + 0.5, view, width), width / (view.to - view.from), width);
      return { drive: lane.drive, key: n, frame, x, y: scales[row].y(heightOf(key)) };
    });
  });
}

/** Keys at the ends are drawn whole: the end of a loop is one frame after its last. */
function inSight(x: number, cell: number, width: number): number {
  if (x < -cell || x > width + cell) return x;
  return Math.min(Math.max(x, 6), width - 6);
}

export interface Scale {
  low: number;
  high: number;
  y: (value: number) => number;
  value: (y: number) => number;
}

export const curveOf = (shot: Shot, lane: Lane) => shot.curves.find((one) => one.drive === lane.drive);

/** Heights of a row: those of the saved lane, so that nothing slides away under a drag. */
export function scaleOf(shot: Shot, lane: Lane, row: number): Scale {
  const curve = curveOf(shot, lane);
  const low = curve?.low ?? 0;
  const high = curve?.high ?? 1;
  const flat = high === low;
  const range = flat ? 1 : high - low;
  const bottom = ROW * (row + 1) - PAD;
  return {
    low,
    high,
    y: (value) => bottom - (flat ? 0.5 : 0) * TALL - ((value - low) / range) * TALL,
    value: (y) => low + ((bottom - y) / TALL - (flat ? 0.5 : 0)) * range,
  };
}

export function stretchOf(
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

export function pathOf(
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
