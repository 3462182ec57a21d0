import type { ShotDocument } from "../../api/client";
import { count } from "../../parts/words";

export type Rig = NonNullable<NonNullable<ShotDocument["camera"]>["rig"]>;
export type PathRig = Extract<Rig, { kind: "path" }>;
/** A rig that stands before its subject, or goes round it. */
export type RoundRig = Exclude<Rig, PathRig>;

/** The rig, where a drag in the viewfinder means something to it. */
export function roundRig(document: ShotDocument): RoundRig | undefined {
  const rig = document.camera?.rig;
  return rig?.kind === "path" ? undefined : rig;
}

export function turnWords(turns: number): string {
  if (turns === 0) return "not at all";
  if (turns === 0.5) return "half";
  if (turns === 1) return "once";
  if (turns === 2) return "twice";
  return `${Number(turns.toFixed(3))} times`;
}

export function heightWords(degrees: number): string {
  if (degrees === 0) return "level";
  return `${Number(Math.abs(degrees).toFixed(3))}° ${degrees > 0 ? "above" : "below"}`;
}

export function flightWords(rig: PathRig): string {
  return `${count(rig.keys.length, "key")}${rig.closed ? ", and back to the first" : ""}`;
}
