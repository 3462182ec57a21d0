import type { Schemas, Shot, ShotDocument } from "../../api/client";
import { short } from "../../parts/words";

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
}

/** What of the camera a lane may drive, from where it stands now. */
function cameraDrives(document: ShotDocument): Drivable[] {
  const elevation = document.camera?.rig?.elevation_deg ?? 18;
  const fill = document.camera?.rig?.fill ?? 0.8;
  const focal = document.camera?.lens?.focal_mm ?? 50;
  const ofCamera = (drive: string, name: string, unit: string, bounds: number[], values: number[]) => ({
    drive,
    name,
    unit,
    low: bounds[0],
    high: bounds[1],
    from: values[0],
    to: values[1],
  });
  return [
    ofCamera("rig:elevation", "elevation", "°", [-89, 89], [elevation, Math.min(elevation + 30, 89)]),
    ofCamera("rig:azimuth", "azimuth", "° more", [-36000, 36000], [0, 45]),
    ofCamera("rig:distance", "distance", "× the rig's", [0.05, 50], [1, 2]),
    ofCamera("rig:fill", "fill", "of the frame", [0.02, 4], [fill, fill / 2]),
    ofCamera("lens:focal", "focal length", "mm", [4, 2000], [focal, focal * 2]),
  ];
}

/** All that a lane of this shot may drive. */
export function drivables(document: ShotDocument, source?: Schemas["SourceBody"]): Drivable[] {
  if (!source) return [];
  const fixed = new Set(source.settings);
  const dials = source.dials
    .filter((dial) => !fixed.has(dial.name))
    .map((dial) => ({ ...dial, drive: `dial:${dial.name}`, from: dial.low, to: dial.default }));
  return source.camera ? [...dials, ...cameraDrives(document)] : dials;
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

/** The same lane with its places counted in something else. */
export function countedIn(lane: Lane, at: Lane["at"], shot: Shot): Partial<Lane> {
  const { motion, span, rate } = shot.reckoning;
  const [over, under = "1"] = rate.split("/");
  const steps = span === "loop" ? motion : Math.max(motion - 1, 1);
  const aPhase = { phase: 1, seconds: (steps * Number(under)) / Number(over), frames: steps };
  const rounded = (place: number) => Number(place.toFixed(6));
  const keys = lane.keys.map(
    (key) => [rounded((placeOf(key) / aPhase[lane.at]) * aPhase[at]), ...key.slice(1)] as LaneKey,
  );
  return { at, keys };
}

export function driveName(drive: string): string {
  const names: Record<string, string> = { "lens:focal": "focal length" };
  return names[drive] ?? drive.replace(/^(dial|rig):/, "");
}

export const placeOf = (key: LaneKey) => key[0] as number;
export const heightOf = (key: LaneKey) => key[1] as number;
export const easingOf = (key: LaneKey, lane: Lane) => (key[2] as string | undefined) ?? lane.ease;

/** A lane in the words of the brief. */
export function laneWords(lane: Lane): string {
  const name = driveName(lane.drive);
  if (lane.follows) return `${name} follows ${driveName(lane.follows)}`;
  const values = lane.keys.map((key) => short(heightOf(key)));
  if (values.length === 1) return `${name} stays ${values[0]}`;
  const first = values[0];
  const last = values[values.length - 1];
  const way =
    values.length === 3 && first === last
      ? `${first} to ${values[1]} and back`
      : `${first} to ${last}${lane.back ? " and back" : ""}`;
  return `${name} goes ${way}${lane.repeat === 1 ? "" : `, ${short(lane.repeat)} times`}`;
}
