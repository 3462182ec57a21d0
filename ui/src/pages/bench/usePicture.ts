import { useEffect, useRef, useState } from "react";
import { client, type Patch, Refusal, refusal } from "../../api/client";

export interface Wanted {
  shotId: string;
  revision: number;
  version: number;
  frame: number;
  width: number;
  height: number;
  samples: number;
  patch?: Patch;
  quick?: boolean;
  /** Which camera with which pass, where there are several. */
  cameraPass?: number;
  /** The camera follows the saved shot, also where the patch changes the subject. */
  steady?: boolean;
  /** It shows an edit that is not saved yet: if that is refused, the edit's own answer reports it. */
  unsaved?: boolean;
}

interface Picture {
  address: string | null;
  error: Refusal | null;
  busy: boolean;
  milliseconds: number;
}

const SETTLED_MS = 220;

/**
 * The picture of a frame. One request runs at a time and the newest wish
 * comes next, so that a drag shows as many pictures as the stage can make and
 * never an old one. The first look is quick; when the wish rests, it is asked for
 * again without loss and with all samples.
 */
export function usePicture(wanted: Wanted | null, fine: number): Picture {
  const [picture, setPicture] = useState<Picture>({
    address: null,
    error: null,
    busy: false,
    milliseconds: 0,
  });
  const next = useRef<Wanted | null>(null);
  const going = useRef(false);
  /** The wish that the server has refused: finer samples of it would be refused too. */
  const refused = useRef("");
  const alive = useRef(true);
  const key = wanted && JSON.stringify(wanted);

  useEffect(() => {
    alive.current = true;
    return () => {
      alive.current = false;
    };
  }, []);

  useEffect(() => {
    if (!key) return;
    const wish = JSON.parse(key) as Wanted;
    const serve = async () => {
      if (going.current) return;
      going.current = true;
      while (next.current && alive.current) {
        const now = next.current;
        next.current = null;
        setPicture((before) => ({ ...before, busy: true }));
        const begun = performance.now();
        const got = await fetchPicture(now);
        if (!alive.current) break;
        refused.current = got instanceof Refusal ? wishOf(now) : "";
        setPicture((before) => {
          if (got instanceof Refusal)
            return { ...before, error: now.unsaved ? before.error : got, busy: false };
          if (before.address) URL.revokeObjectURL(before.address);
          return { address: got, error: null, busy: false, milliseconds: performance.now() - begun };
        });
      }
      going.current = false;
    };
    next.current = { ...wish, quick: true };
    void serve();
    const rest = setTimeout(() => {
      if (refused.current === wishOf(wish)) return;
      next.current ??= { ...wish, samples: fine };
      void serve();
    }, SETTLED_MS);
    return () => clearTimeout(rest);
  }, [key, fine]);

  return picture;
}

/** A wish by all but its quality. */
const wishOf = ({ quick: _, samples: __, ...wish }: Wanted) => JSON.stringify(wish);

export async function fetchPicture(wish: Wanted): Promise<string | Refusal> {
  const { shotId, frame, width, height, samples, revision, patch = {} } = wish;
  const { cameraPass = 0, quick = false, steady = false } = wish;
  try {
    const { data, error, response } = await client.POST("/api/shots/{shot_id}/view", {
      params: { path: { shot_id: shotId } },
      body: { frame, width, height, samples, revision, patch, camera_pass: cameraPass, quick, steady },
      parseAs: "blob",
    });
    if (!response.ok) return refusal(error, response.status);
    return URL.createObjectURL(data as unknown as Blob);
  } catch {
    return new Refusal("Vexel does not answer. It may have been stopped: start it again.");
  }
}
