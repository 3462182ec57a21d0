import { useRef, useState } from "react";
import type { Patch, Shot } from "../../../api/client";
import { useChange } from "../../../parts/hooks/useChange";
import type { Aim } from "../camera/aim";
import type { Drivable, Lane } from "../lanes";
import { roundRig } from "../rigs";
import type { Playing } from "./usePlay";

/** What a gesture is to move: one thing by a slider, or the camera by dragging. */
export type PlayedThing = { camera: true } | { camera: false; of: Drivable };

export interface Track {
  drive: string;
  samples: [number, number][];
}

export interface PlayIn {
  thing: PlayedThing | null;
  going: boolean;
  value: number;
  speed: number;
  begin: (thing: PlayedThing) => void;
  cancel: () => void;
  start: () => void;
  setSpeed: (speed: number) => void;
  setValue: (value: number) => void;
  setAim: (aim: Aim) => void;
  /** What the viewfinder shows meanwhile. */
  patch?: Patch;
}

/** A pointer that does not move for longer than this rests; shorter pauses are between two of its events. */
const HELD_MS = 150;

/** Plays the shot once while you move something, and returns the recorded curve. */
export function usePlayIn(
  shot: Shot | undefined,
  rate: number,
  playing: Playing,
  onPlayed: (tracks: Track[]) => void,
): PlayIn {
  const [thing, setThing] = useState<PlayedThing | null>(null);
  const [value, setShown] = useState(0);
  const [speed, setSpeed] = useState(1);
  const [going, setGoing] = useState(false);
  const rig = shot && roundRig(shot.document.camera.rig);
  const now = useRef<Record<string, number>>({});

  // Another shot ends it.
  useChange(shot?.id, () => setThing(null));

  const begin = (next: PlayedThing) => {
    playing.stop();
    setThing(next);
    setGoing(false);
    if (next.camera) {
      now.current = {
        "rig:azimuth": 0,
        "rig:elevation": rig?.elevation_deg ?? 18,
        "rig:fill": rig?.fill ?? 0.8,
      };
    } else {
      // It begins where the lane that is there begins.
      const value = shot?.curves.find((curve) => curve.drive === next.of.drive)?.values[0] ?? next.of.first;
      now.current = { [next.of.drive]: value };
      setShown(value);
    }
  };
  const cancel = () => {
    playing.stop();
    setGoing(false);
    setThing(null);
  };
  const start = () => {
    const courses: Record<string, [number, number][]> = {};
    let before = 0;
    setGoing(true);
    playing.once(
      speed,
      (at) => {
        for (const [drive, height] of Object.entries(now.current)) {
          courses[drive] ??= [[0, height]];
          note(courses[drive], at, height, before, (rate * speed * HELD_MS) / 1000);
        }
        before = at;
      },
      () => {
        setGoing(false);
        setThing(null);
        const tracks = Object.entries(courses).map(([drive, course]) => ({
          drive,
          samples: [...course, [before, now.current[drive] ?? course[0][1]] as [number, number]],
        }));
        // A camera that was only turned has no lane for its height.
        onPlayed(thing?.camera ? tracks.filter(moves) : tracks);
      },
    );
  };
  const others = (shot?.document.lanes ?? []).filter((lane) => !drivesOf(thing).includes(lane.drive));
  const held: Lane[] =
    thing && !thing.camera
      ? [...others, { drive: thing.of.drive, keys: [[0, value]] } as unknown as Lane]
      : others;
  return {
    thing,
    going,
    value,
    speed,
    begin,
    cancel,
    start,
    setSpeed,
    setValue: (next) => {
      setShown(next);
      if (thing && !thing.camera) now.current = { [thing.of.drive]: next };
    },
    setAim: (aim) => {
      const before = now.current["rig:azimuth"] ?? 0;
      const turned = aim.start_deg - (rig?.start_deg ?? 0);
      now.current = {
        // The aim is within half a turn; the gesture may continue beyond it.
        "rig:azimuth": turned + 360 * Math.round((before - turned) / 360),
        "rig:elevation": aim.elevation_deg,
        "rig:fill": aim.fill,
      };
    },
    patch: thing ? { lanes: held } : undefined,
  };
}

/** Notes where something is, if it moved; a rest of any length keeps its end, so that it stays a rest. */
function note(course: [number, number][], at: number, height: number, before: number, rest: number) {
  const [lastAt, last] = course[course.length - 1];
  if (height === last) return;
  if (before - lastAt > rest) course.push([before, last]);
  course.push([at, height]);
}

const drivesOf = (thing: PlayedThing | null) =>
  thing?.camera ? ["rig:azimuth", "rig:elevation", "rig:fill"] : thing ? [thing.of.drive] : [];

const moves = ({ samples }: Track) => samples.some(([, height]) => height !== samples[0][1]);
