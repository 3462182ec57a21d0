import { useEffect, useRef, useState } from "react";
import type { Patch, Shot } from "../../../api/client";
import type { Drivable, Lane } from "../lanes";
import type { Playing } from "./usePlay";

export interface Aim {
  start_deg: number;
  elevation_deg: number;
  fill: number;
}

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

/** Plays the shot once while a person moves something, and gives the course of that. */
export function usePlayIn(
  shot: Shot | undefined,
  playing: Playing,
  onPlayed: (tracks: Track[]) => void,
): PlayIn {
  const [thing, setThing] = useState<PlayedThing | null>(null);
  const [value, setShown] = useState(0);
  const [speed, setSpeed] = useState(1);
  const [going, setGoing] = useState(false);
  const now = useRef<Record<string, number>>({});
  const samples = useRef<Record<string, [number, number][]>>({});

  // Another shot ends it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the shot's name alone matters
  useEffect(() => setThing(null), [shot?.id]);

  const begin = (next: PlayedThing) => {
    playing.stop();
    setThing(next);
    setGoing(false);
    if (next.camera) now.current = {};
    else {
      // It begins where the lane that is there begins.
      const value = shot?.curves.find((curve) => curve.drive === next.of.drive)?.values[0] ?? next.of.from;
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
    samples.current = {};
    setGoing(true);
    playing.once(
      speed,
      (at) => {
        for (const [drive, height] of Object.entries(now.current)) {
          samples.current[drive] ??= [];
          samples.current[drive].push([at, height]);
        }
      },
      () => {
        setGoing(false);
        setThing(null);
        const tracks = Object.entries(samples.current).map(([drive, course]) => ({ drive, samples: course }));
        // A camera that was only turned has no lane for its height.
        onPlayed(thing?.camera ? tracks.filter(moves) : tracks);
      },
    );
  };
  const rig = shot?.document.camera?.rig;
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
        // The aim is told within half a turn; the gesture goes on beyond it.
        "rig:azimuth": turned + 360 * Math.round((before - turned) / 360),
        "rig:elevation": aim.elevation_deg,
        "rig:fill": aim.fill,
      };
    },
    patch: thing ? { lanes: held } : undefined,
  };
}

const drivesOf = (thing: PlayedThing | null) =>
  thing?.camera ? ["rig:azimuth", "rig:elevation", "rig:fill"] : thing ? [thing.of.drive] : [];

const moves = ({ samples }: Track) => samples.some(([, height]) => height !== samples[0][1]);
