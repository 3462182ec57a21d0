import type { ShotPatch } from "../../api/client";

/** Saves a merge patch of the shot document; `what` names the edit for undo. */
export type Edit = (patch: ShotPatch, what: string) => void;
