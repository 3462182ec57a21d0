import type { Patch, Shot } from "../../../api/client";
import { merged } from "../../../api/merge";
import type { Edit } from "../edit";

/** Edits of one of the shot's cameras, written as if it were the shot's own. */
export function cameraEdit(shot: Shot, number: number, edit: Edit): Edit {
  return (patch, what) => edit(cameraPatch(shot, number, patch), what);
}

/** A patch of the shot's own camera as one of another camera of it. */
export function cameraPatch(shot: Shot, number: number, patch: Patch): Patch {
  if (number === 0 || !("camera" in patch)) return patch;
  const { camera, ...rest } = patch;
  const cameras = shot.document.cameras.map((old, n) => (n === number - 1 ? merged(old, camera) : old));
  return { ...rest, cameras };
}
