import type { Schemas, Shot, ShotDocument } from "../../api/client";
import { short } from "../../parts/words";
import { roundRig } from "./rigs";

export type Lane = NonNullable<ShotDocument["lanes"]>[number];
export type LaneKey = Lane["keys"][number];

export const EASINGS = [
  "linear",
  "hold",
  "smooth",
  "ease",
  "ease-in",
  "ease-out",
  "ease-in-out",
  "spring",
] as const;
/** What a person may begin from to write an easing of their own. */
export const OWN_EASING = "cubic-bezier(0.4, 0, 0.2, 1)";

export interface Drivable {
  drive: string;
  name: string;
  unit: string;
  low: number;
  high: number;
  from: number;
  to: number;
  /** Between which values a slider goes. */
  usual: [number, number];
}

const drivable = (
  drive: string,
  unit: string,
  bounds: number[],
  values: number[],
  usual = bounds,
): Drivable => ({
  drive,
  name: driveName(drive),
  unit,
  low: bounds[0],
  high: bounds[1],
  from: values[0],
  to: values[1],
  usual: [usual[0], usual[1]],
});

/** What of the camera and its light a lane may drive, from where it stands now. */
function cameraDrives(document: ShotDocument): Drivable[] {
  const { camera, light } = document;
  const rig = roundRig(camera?.rig);
  const elevation = rig?.elevation_deg ?? 18;
  const fill = rig?.fill ?? 0.8;
  const focal = camera?.lens?.focal_mm ?? 50;
  const azimuth = light?.azimuth_deg ?? -36;
  const height = light?.elevation_deg ?? 34;
  const turn = [-36000, 36000];
  const focus = camera?.lens?.focus ?? 10;
  const round = [
    drivable("rig:elevation", "°", [-90, 90], [elevation, Math.min(elevation + 30, 90)]),
    drivable("rig:azimuth", "° more", turn, [0, 45], [-180, 180]),
    drivable("rig:distance", "× the rig's", [0.05, 50], [1, 2], [0.2, 4]),
    drivable("rig:fill", "of the frame", [0.02, 4], [fill, fill / 2], [0.05, 1.5]),
  ];
  return [
    ...(rig ? round : []),
    drivable("lens:focal", "mm", [4, 2000], [focal, focal * 2], [14, 300]),
    ...(camera?.lens?.f_stop != null
      ? [drivable("lens:focus", "away", [1e-6, 1e9], [focus, focus * 2], [focus / 4, focus * 4])]
      : []),
    drivable("light:azimuth", "°", turn, [azimuth, azimuth + 90], [-180, 180]),
    drivable("light:elevation", "°", [-90, 90], [height, 70]),
    drivable("light:strength", "×", [0, 10], [light?.strength ?? 1, 0.3], [0, 3]),
  ];
}

/** What of the parts and their colours a lane may drive. */
function partDrives(source: Schemas["SourceBody"]): Drivable[] {
  const free = [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY];
  return [
    ...source.parts.map((part) => drivable(`opacity:${part}`, "", [0, 1], [1, 0])),
    ...source.arrays.flatMap((array) => [
      drivable(`range-low:${array}`, "", free, [0, 0.5], [-1, 1]),
      drivable(`range-high:${array}`, "", free, [1, 2], [0, 2]),
    ]),
  ];
}

/** All that a lane of this shot may drive. */
export function drivables(document: ShotDocument, source?: Schemas["SourceBody"]): Drivable[] {
  if (!source) return [];
  const fixed = new Set(source.settings);
  const dials = source.dials
    .filter((dial) => !fixed.has(dial.name))
    .map((dial) => drivable(`dial:${dial.name}`, dial.unit, [dial.low, dial.high], [dial.low, dial.default]));
  const labels = (document.labels ?? []).filter((label) => label.name);
  return [
    ...dials,
    ...(source.camera ? [...cameraDrives(document), ...partDrives(source)] : []),
    ...(source.listed ? [drivable("list:offset", "ahead", [-1e6, 1e6], [0, 1], [-24, 24])] : []),
    ...labels.map((label) => drivable(`label:${label.name}`, "", [-1e9, 1e9], [0, 100], [0, 100])),
  ];
}

/** A lane for something, from where it is; in a loop it comes back. */
export function newLane(of: Drivable, loop: boolean): Lane {
  return {
    drive: of.drive,
    keys: [
      [0, of.from],
      [1, of.to],
    ],
    at: "phase",
    ease: "ease-in-out",
    repeat: 1,
    back: loop,
    offset: 0,
    within: [0, 1],
    follows: null,
    times: 1,
    plus: 0,
  };
}

export const PLACES = ["phase", "seconds", "frames"] as const;

/** The whole shot in the motion's own time, in whatever a lane's places are counted in. */
export function wholeShot(shot: Shot): Record<Lane["at"], number> {
  const { own_steps, rate } = shot.reckoning;
  const [over, under = "1"] = rate.split("/");
  return { phase: 1, seconds: (own_steps * Number(under)) / Number(over), frames: own_steps };
}

/** The same lane with its places counted in something else. */
export function countedIn(lane: Lane, at: Lane["at"], shot: Shot): Partial<Lane> {
  const aPhase = wholeShot(shot);
  const rounded = (place: number) => Number(place.toFixed(6));
  const keys = lane.keys.map(
    (key) => [rounded((placeOf(key) / aPhase[lane.at]) * aPhase[at]), ...key.slice(1)] as LaneKey,
  );
  return { at, keys };
}

export function driveName(drive: string): string {
  const names: Record<string, string> = {
    "lens:focal": "focal length",
    "lens:focus": "focus",
    "list:offset": "list offset",
  };
  const of: Record<string, string> = {
    opacity: "opacity of ",
    "range-low": "low end of ",
    "range-high": "high end of ",
    light: "light's ",
  };
  const [kind, ...name] = drive.split(":");
  return names[drive] ?? `${of[kind] ?? ""}${name.join(":")}`;
}

export const placeOf = (key: LaneKey) => key[0] as number;
export const heightOf = (key: LaneKey) => key[1] as number;
export const easingOf = (key: LaneKey, lane: Lane) => (key[2] as string | undefined) ?? lane.ease;

/** A lane in the words of the brief: where it goes, with its turns on the way and its pauses. */
export function laneWords(lane: Lane): string {
  const name = driveName(lane.drive);
  if (lane.follows) return `${name} follows ${driveName(lane.follows)}`;
  const values = lane.keys.map((key) => Number(short(heightOf(key))));
  if (values.length === 1) return `${name} stays ${values[0]}`;
  const turns = turnsOf(values);
  const way =
    turns.length === 3 && turns[0] === turns[2]
      ? `${turns[0]} to ${turns[1]} and back`
      : `${wayWords(turns)}${lane.back ? " and back" : ""}`;
  const pauses = pausesOf(lane, values);
  const rests = pauses === 0 ? "" : pauses === 1 ? " with a pause" : ` with ${pauses} pauses`;
  return `${name} goes ${way}${rests}${lane.repeat === 1 ? "" : `, ${short(lane.repeat)} times`}`;
}

const MOST_TURNS = 5;

function wayWords(turns: number[]): string {
  const [first, ...rest] = turns;
  if (turns.length <= MOST_TURNS) return `${first} to ${rest.join(", then ")}`;
  const [low, high] = [Math.min(...turns), Math.max(...turns)];
  return `${first} to ${rest[rest.length - 1]}, between ${low} and ${high}`;
}

/** First and last value, and between them those at which the way turns. */
function turnsOf(values: number[]): number[] {
  const steps = values.filter((value, n) => n === 0 || value !== values[n - 1]);
  if (steps.length === 1) return [steps[0], steps[0]];
  return steps.filter(
    (value, n) => n === 0 || n === steps.length - 1 || value - steps[n - 1] > 0 !== steps[n + 1] - value > 0,
  );
}

/** Stretches in which nothing moves, though the lane does elsewhere. */
function pausesOf(lane: Lane, values: number[]): number {
  if (values.every((value) => value === values[0])) return 0;
  let pauses = 0;
  for (let n = 0; n < values.length - 1; n++) {
    const rests = values[n] === values[n + 1] || easingOf(lane.keys[n], lane) === "hold";
    const rested = n > 0 && values[n - 1] === values[n];
    if (rests && !rested) pauses += 1;
  }
  return pauses;
}
