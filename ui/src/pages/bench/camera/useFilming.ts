import { useState } from "react";
import type { Patch, Shot } from "../../../api/client";
import type { Edits } from "../../../api/edits";
import { composed } from "../../../api/merge";
import { useChange } from "../../../parts/hooks/useChange";
import { cameraOf, roundRig } from "../rigs";
import { useLooks } from "../useLooks";
import type { Aim } from "./aim";
import { cameraPatch } from "./cameraEdit";
import { type Overlay, storedOverlays, storeOverlays } from "./overlays";
import { asOther, useCompare } from "./useCompare";
import { useFreeLook } from "./useFreeLook";
import { type PathFigures, type Point, usePathFigures } from "./usePathFigures";
import type { Taking } from "./useTaking";

const DRAWING = "vexel-drawing";

/** The camera of the viewfinder, its overlays, and its motion. */
export function useFilming(
  shot: Shot | undefined,
  frame: number,
  edits: Edits,
  onFrame: (frame: number) => void,
  /** Told the name of a view that was saved. */
  onSaved: (name: string) => void,
) {
  const [cameraPass, setCameraPass] = useState(0);
  const [overlays, setOverlays] = useState<Overlay[]>(storedOverlays);
  const [actual, setActual] = useState(false);
  const [around, setAround] = useState(false);
  const [taking, setTaking] = useState<Taking | null>(null);
  const [drawing, setDrawing] = useState(localStorage.getItem(DRAWING) === "1");
  const [leading, setLeading] = useState<{ revision: number; patch: Patch } | null>(null);
  const looks = useLooks(shot);
  const passes = shot?.document.picture?.passes ?? ["shaded"];
  const cameraPasses = [
    shot?.document.camera?.name ?? "main",
    ...(shot?.document.cameras ?? []).map((c) => c.name),
  ].flatMap((name) => passes.map((pass) => `${name}, ${pass}`));
  const seen = Math.min(cameraPass, cameraPasses.length - 1);
  const camera = Math.floor(seen / passes.length);
  // The Bench goes to a view that was saved into a walk as soon as its frame is known.
  const [saved, setSaved] = useState<{ view: number; revision: number } | "asked" | null>(null);
  const look = useFreeLook(shot?.revision ?? 0, frame, saved !== null);
  const free = {
    ...look,
    set: (aim: Aim | null) => {
      // A new drag replaces the jump to the saved view.
      setSaved(null);
      look.set(aim);
    },
  };
  const compare = useCompare(shot);
  // What was dragged is saved, or was refused.
  const lead = leading && leading.revision === shot?.revision ? leading.patch : undefined;
  const patch = lead ?? compare.patch;
  const pathFigures = usePathFigures(shot, camera, looks, composed(shot?.unsaved, patch));
  const reached =
    saved && saved !== "asked" && shot && shot.revision >= saved.revision
      ? pathFigures?.stops[saved.view]
      : undefined;
  useChange(reached, () => {
    if (reached === undefined) return;
    setSaved(null);
    onFrame(reached);
  });
  const saveView = async () => {
    if (!looks || !shot) return;
    const walks = shot.document.camera.rig.kind === "stops";
    if (walks) setSaved("asked");
    const order = { frame, patch: camera === 0 ? (free.patch ?? {}) : {}, name: "" };
    const next = await edits.saveView(order).catch((failure) => {
      setSaved(null);
      throw failure;
    });
    const views = next.document.camera.views;
    setSaved((now) => (now === "asked" ? { view: views.length - 1, revision: next.revision } : now));
    onSaved(views[views.length - 1]?.name ?? "The view");
  };
  return {
    cameraPasses,
    cameraPass: seen,
    setCameraPass,
    camera,
    setCamera: (to: number) => setCameraPass(to * passes.length),
    overlays,
    setOverlays: (next: Overlay[]) => {
      storeOverlays(next);
      setOverlays(next);
    },
    actual,
    setActual,
    around,
    setAround,
    taking,
    setTaking,
    drawing: drawing && looks,
    setDrawing: (on: boolean) => {
      localStorage.setItem(DRAWING, on ? "1" : "");
      setDrawing(on);
    },
    looks,
    /** Whether keys or views lead the camera, so that a drag cannot. */
    led: shot !== undefined && roundRig(cameraOf(shot.document, camera)?.rig) === undefined,
    free,
    compare,
    pathFigures,
    patch,
    saveView,
    addCamera: () => edits.addCamera({ frame, patch: free.patch ?? {} }),
    flip: compare.other ? compare.flip : compare.keep,
    take: () => {
      const other = compare.other;
      if (!other) return;
      compare.keep();
      compare.flip();
      edits.edit({ camera: asOther(other) }, "the camera that was comparison");
    },
    /** Moves a key of the path, or a saved view; saved when it is let go. */
    place: (number: number, to: Point, done: boolean) => {
      if (!shot) return;
      const next = placedPatch(shot, camera, number, to);
      if (!next) return;
      if (done) edits.edit(next, "the camera path");
      setLeading({ revision: shot.revision, patch: next });
    },
  };
}

export type Filming = ReturnType<typeof useFilming>;

function placedPatch(shot: Shot, number: number, place: number, position: Point): Patch | null {
  const camera = cameraOf(shot.document, number);
  if (!camera) return null;
  const moved = <T extends { position: number[] }>(places: T[]) =>
    places.map((old, n) => (n === place ? { ...old, position } : old));
  const patch =
    camera.rig.kind === "path"
      ? { rig: { keys: moved(camera.rig.keys) } }
      : camera.rig.kind === "stops"
        ? { views: moved(camera.views) }
        : null;
  return patch && cameraPatch(shot, number, { camera: patch });
}

export type { PathFigures };
