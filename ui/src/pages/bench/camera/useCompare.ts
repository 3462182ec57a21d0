import { useState } from "react";
import type { Patch, Shot } from "../../../api/client";
import type { Camera } from "../rigs";

/** Two cameras of one shot, to be flipped between: the saved one, and another that was comparison. */
export interface Compare {
  other: Camera | null;
  flipped: boolean;
  patch?: Patch;
  keep: () => void;
  flip: () => void;
  forget: () => void;
}

export function useCompare(shot: Shot | undefined): Compare {
  const [kept, setKept] = useState<{ shot: string; camera: Camera } | null>(null);
  const [flipped, setFlipped] = useState(false);
  const camera = shot?.document.camera;
  const other = kept && kept.shot === shot?.id ? kept.camera : null;
  return {
    other,
    flipped: flipped && other !== null,
    patch: flipped && other ? { camera: asOther(other) } : undefined,
    keep: () => shot && camera && setKept({ shot: shot.id, camera }),
    flip: () => setFlipped(!flipped),
    forget: () => {
      setKept(null);
      setFlipped(false);
    },
  };
}

/** The merge patch that makes a camera another: the whole of it, but for its name. */
export function asOther({ lens, rig, views }: Camera): Patch {
  return { lens, rig, views };
}
