import { useState } from "react";
import type { Patch, Shot } from "../../../api/client";
import type { Camera } from "../rigs";

/** Two cameras of one shot, to be flipped between: the saved one, and another that was kept aside. */
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
    patch: flipped && other && camera ? { camera: inPlaceOf(camera, other) } : undefined,
    keep: () => shot && camera && setKept({ shot: shot.id, camera }),
    flip: () => setFlipped(!flipped),
    forget: () => {
      setKept(null);
      setFlipped(false);
    },
  };
}

/** The merge patch that makes one camera another. */
export function inPlaceOf(now: Camera, other: Camera): Patch {
  const gone = (values: object) => Object.fromEntries(Object.keys(values).map((name) => [name, null]));
  return {
    lens: { ...gone(now.lens), ...other.lens },
    rig: { ...gone(now.rig), ...other.rig },
    views: other.views,
  };
}
