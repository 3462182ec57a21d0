import type { Schemas, Shot } from "../../../api/client";
import { targetName, vocabulary } from "../../../api/vocabulary";
import { coordinate } from "../../../parts/spelledNumber";
import { type Drivable, easingOf, heightOf, type Lane, type LaneKey, placeOf, wholeShot } from "../lanes";

type Curve = Schemas["LaneCurve"];
/** A key of a lane: which lane, and which of its keys. */
export interface KeyAt {
  drive: string;
  key: number;
}

export const sameKey = (a: KeyAt, b: KeyAt) => a.drive === b.drive && a.key === b.key;

/** How the places of a lane's keys lie along the shown frames. */
export interface Along {
  frameOf: (place: number) => number;
  placeAt: (frame: number) => number;
}

/** Exactly, where the lane simply runs through its keys; else along its curve, the first time that it comes by. */
export function along(shot: Shot, lane: Lane, curve: Curve | undefined): Along {
  const { clock, ease } = shot.document;
  const whole = wholeShot(shot)[lane.at];
  const simple =
    lane.repeat === 1 && !lane.back && lane.offset === 0 && lane.within[0] === 0 && lane.within[1] === 1;
  if ((simple && (ease ?? "linear") === "linear") || !curve || curve.places.length < 2) {
    const { steps, motion } = shot.timing;
    const last = clock.last ?? motion - 1;
    const back = clock.order === "backward";
    // Backwards, the last frame of the range is shown first; with ping-pong, keys are at their first pass.
    const first = back
      ? clock.first + Math.floor((last - clock.first) / clock.every) * clock.every
      : clock.first;
    const [every, held] = [back ? -clock.every : clock.every, clock.hold_start];
    return {
      frameOf: (place) => ((place / whole) * steps - first) / every + held,
      placeAt: (frame) => (((frame - held) * every + first) / steps) * whole,
    };
  }
  return {
    frameOf: (place) => crossing(curve, place),
    placeAt: (frame) => standingAt(curve.frames, curve.places, frame),
  };
}

function crossing({ places, frames }: Curve, place: number): number {
  for (let n = 1; n < places.length; n++) {
    const [a, b] = [places[n - 1], places[n]];
    if ((place - a) * (place - b) > 0) continue;
    return a === b ? frames[n - 1] : frames[n - 1] + ((place - a) / (b - a)) * (frames[n] - frames[n - 1]);
  }
  const nearest = places.reduce(
    (best, at, n) => (Math.abs(at - place) < Math.abs(places[best] - place) ? n : best),
    0,
  );
  return frames[nearest];
}

/** The number of a curve at a frame, given its frames and numbers. */
export function standingAt(frames: number[], numbers: number[], frame: number): number {
  const after = frames.findIndex((at) => at >= frame);
  if (after <= 0) return numbers[after === 0 ? 0 : numbers.length - 1];
  const share = (frame - frames[after - 1]) / (frames[after] - frames[after - 1]);
  return numbers[after - 1] + share * (numbers[after] - numbers[after - 1]);
}

/** From where to where what a lane drives may go. */
export const boundsIn =
  (drivables: Drivable[]) =>
  (drive: string): [number, number] | null => {
    const of = drivables.find((one) => one.drive === drive);
    return of ? [of.low ?? Number.NEGATIVE_INFINITY, of.high ?? Number.POSITIVE_INFINITY] : null;
  };

/** Keys in words, for undo. */
export const keysName = (keys: KeyAt[]) =>
  `${keys.length === 1 ? "a key" : `${keys.length} keys`} of ${targetName(keys[0].drive)}`;

export interface Move {
  frames: number;
  /** By how much of each lane's own range the values go up. */
  heights: number;
  snap: boolean;
}

/** Lanes with some keys moved; they keep their order, and stay apart. */
export function moved(
  shot: Shot,
  lanes: Lane[],
  chosen: KeyAt[],
  by: Move,
  bounds: (drive: string) => [number, number] | null,
): Lane[] {
  return lanes.map((lane) => {
    const mine = new Set(chosen.filter((one) => one.drive === lane.drive).map((one) => one.key));
    if (mine.size === 0) return lane;
    const curve = shot.curves.find((one) => one.drive === lane.drive);
    const { frameOf, placeAt } = along(shot, lane, curve);
    const range = curve ? curve.high - curve.low || 1 : 1;
    const least = wholeShot(shot)[lane.at] / shot.timing.steps / 100;
    const keys = lane.keys.map((key, n) => {
      if (!mine.has(n)) return key;
      const frame = frameOf(placeOf(key)) + by.frames;
      const place = by.frames === 0 ? placeOf(key) : placeAt(by.snap ? Math.round(frame) : frame);
      const height = bounded(heightOf(key) + by.heights * range, bounds(lane.drive), range);
      return [tidy(place), by.heights === 0 ? heightOf(key) : height, ...key.slice(2)] as LaneKey;
    });
    return { ...lane, keys: apart(keys, mine, least) };
  });
}

/** Moved keys stop before those that stay. */
function apart(keys: LaneKey[], mine: Set<number>, least: number): LaneKey[] {
  const result = keys.map((key) => [...key] as LaneKey);
  for (let n = 0; n < keys.length; n++) {
    if (!mine.has(n)) continue;
    const before = n > 0 ? placeOf(result[n - 1]) + least : Number.NEGATIVE_INFINITY;
    const fixed = keys.findIndex((_, k) => k > n && !mine.has(k));
    const after = fixed > 0 ? placeOf(keys[fixed]) - least * (fixed - n) : Number.POSITIVE_INFINITY;
    result[n][0] = Math.min(Math.max(placeOf(keys[n]), before), after);
  }
  return result;
}

function bounded(value: number, bounds: [number, number] | null, range: number): number {
  const grain = 10 ** Math.floor(Math.log10(range) - 3);
  const round = Number((Math.round(value / grain) * grain).toPrecision(9));
  return bounds ? Math.min(Math.max(round, bounds[0]), bounds[1]) : round;
}

export const tidy = (place: number) => Number(place.toPrecision(12));

/** A lane with one key more, at a place where it has none; its value is that of the curve there. */
export function withKeyAt(lane: Lane, place: number, value: number): Lane {
  const taken = lane.keys.findIndex((key) => Math.abs(placeOf(key) - place) < 1e-9);
  if (taken >= 0) return lane;
  const after = lane.keys.findIndex((key) => placeOf(key) > place);
  const at = after < 0 ? lane.keys.length : after;
  const key: LaneKey = [tidy(place), coordinate(value)];
  return { ...lane, keys: [...lane.keys.slice(0, at), key, ...lane.keys.slice(at)] };
}

/** Lanes without some keys; each keeps one at least. */
export function without(lanes: Lane[], chosen: KeyAt[]): Lane[] {
  return lanes.map((lane) => {
    const keys = lane.keys.filter(
      (_, key) => !chosen.some((one) => sameKey(one, { drive: lane.drive, key })),
    );
    return keys.length === lane.keys.length
      ? lane
      : { ...lane, keys: keys.length ? keys : lane.keys.slice(0, 1) };
  });
}

/** The two handles of a curve, as in a style sheet: x1, y1, x2, y2. */
export type Bezier = [number, number, number, number];

/** The handles of an easing that has some, as in a style sheet: x1, y1, x2, y2. */
export function handlesOf(easing: string): Bezier | null {
  const named = vocabulary().easings.find((one) => one.name === easing);
  if (named) return named.handles as Bezier | null;
  const form = /^cubic-bezier\(([^)]*)\)$/.exec(easing.replace(/\s/g, ""));
  const numbers = form?.[1].split(",").map(Number);
  return numbers?.length === 4 && numbers.every(Number.isFinite) ? (numbers as Bezier) : null;
}

export function bezier([x1, y1, x2, y2]: Bezier): string {
  const within = (x: number) => Math.min(Math.max(x, 0), 1);
  const round = (n: number) => Number(n.toFixed(3));
  return `cubic-bezier(${round(within(x1))}, ${round(y1)}, ${round(within(x2))}, ${round(y2)})`;
}

export const eased = (lane: Lane, number: number, easing: string): Lane => ({
  ...lane,
  keys: lane.keys.map((key, n) => (n === number ? ([placeOf(key), heightOf(key), easing] as LaneKey) : key)),
});

/** The easing of the stretch that a key begins, if its curve has handles. */
export const handlesOut = (lane: Lane, number: number) =>
  number < lane.keys.length - 1 ? handlesOf(easingOf(lane.keys[number], lane)) : null;
