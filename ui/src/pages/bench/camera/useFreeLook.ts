import { useState } from "react";
import type { Patch } from "../../../api/client";
import { useChange } from "../../../parts/hooks/useChange";
import type { Aim } from "./aim";

/** A look that a camera led by keys or views does not take by itself: shown, and not saved. */
export interface FreeLook {
  aim: Aim | null;
  set: (aim: Aim | null) => void;
  patch?: Patch;
}

/** `saving` is whether a view is saved from it: it then stays until the frame of that view is shown. */
export function useFreeLook(revision: number, frame: number, saving: boolean): FreeLook {
  const [aim, set] = useState<Aim | null>(null);
  // Another frame, or a saved edit, ends the free look.
  useChange(`${revision} ${frame} ${saving}`, () => {
    if (!saving) set(null);
  });
  return { aim, set, patch: aim ? { camera: { rig: stillOf(aim) } } : undefined };
}

/** A static rig at an aim, made from any kind of rig. */
export function stillOf(aim: Aim): Patch {
  return { kind: "still", position: null, ...aim };
}
