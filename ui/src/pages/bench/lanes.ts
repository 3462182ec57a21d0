import type { Schemas, Shot, ShotDocument } from "../../api/client";
import { fraction } from "../../parts/entries/fraction";

export type Lane = NonNullable<ShotDocument["lanes"]>[number];
export type LaneKey = Lane["keys"][number];

/** Something that a lane of a shot may drive. */
export type Drivable = Schemas["LaneTarget"];

/** A lane for something, from where it is; in a loop it comes back. */
export function newLane(of: Drivable, loop: boolean): Lane {
  return {
    drive: of.drive,
    keys: [
      [0, of.first],
      [1, of.second],
    ],
    at: "phase",
    ease: "ease-in-out",
    repeat: 1,
    back: loop,
    offset: 0,
    within: [0, 1],
    follows: null,
    formula: null,
    times: 1,
    plus: 0,
  };
}

export const PLACES = ["phase", "seconds", "frames"] as const;

/** The length of the shot's motion, in each unit that a lane can use. */
export function wholeShot(shot: Shot): Record<Lane["at"], number> {
  const { own_steps, rate } = shot.timing;
  return { phase: 1, seconds: own_steps / fraction(rate), frames: own_steps };
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

export const placeOf = (key: LaneKey) => key[0] as number;
export const heightOf = (key: LaneKey) => key[1] as number;
export const easingOf = (key: LaneKey, lane: Lane) => (key[2] as string | undefined) ?? lane.ease;

/** A step for an entry of what a lane drives: a hundredth of its range, at most 1. */
export function stepOf(of: Drivable | undefined): number {
  if (of?.low == null || of.high == null) return 1;
  return Math.min((of.high - of.low) / 100, 1);
}
