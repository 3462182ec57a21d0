import { createContext, useContext } from "react";
import type { Shot } from "../../api/client";
import type { Topic } from "./Brief";
import type { PathFigures } from "./camera/usePathFigures";
import type { Edit } from "./edit";
import type { PlayedThing } from "./play/usePlayIn";
import type { Rig } from "./rigs";

/** What the sheets know of the Bench, and what they may ask it to do. */
export interface BenchValue {
  shot: Shot;
  edit: Edit;
  frame: number;
  onTerm: (order: { term: string; text: string }) => void;
  onRig: (kind: Rig["kind"]) => void;
  onStagger: (overlap: number) => void;
  onPlayIn: (thing: PlayedThing) => void;
  onTopic: (topic: Topic | null) => void;
  /** Which of the shot's cameras the sheets are about. */
  camera: number;
  onCamera: (camera: number) => void;
  onAddCamera: () => void;
  onSaveView: () => void;
  onPath: (order: { file: File; camera: string }) => void;
  pathFigures: PathFigures | undefined;
  /** Lets the next press into the picture choose the point that the camera looks at. */
  onPick: () => void;
  onFrame: (frame: number) => void;
}

export const BenchContext = createContext<BenchValue | null>(null);

/** The Bench around a sheet. */
export function useBench(): BenchValue {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("a sheet is shown on the Bench alone");
  return bench;
}
