import type { ShotDocument } from "../../api/client";
import { count } from "../../parts/words";

export type Camera = NonNullable<ShotDocument["camera"]>;
export type Rig = Camera["rig"];
export type View = Camera["views"][number];
export type PathRig = Extract<Rig, { kind: "path" }>;
export type StopsRig = Extract<Rig, { kind: "stops" }>;
export type OrbitRig = Extract<Rig, { kind: "orbit" }>;
/** A rig that stands before its subject, or goes round it. */
export type RoundRig = Exclude<Rig, PathRig | StopsRig>;

/** The rig, where a drag in the viewfinder means something to it. */
export function roundRig(rig: Rig | undefined): RoundRig | undefined {
  if (rig?.kind === "path" || rig?.kind === "stops" || (rig?.kind === "still" && rig.position))
    return undefined;
  return rig;
}

/** The shot's own camera, or one of the further ones. */
export function cameraOf(document: ShotDocument, number: number): Camera | undefined {
  return number === 0 ? document.camera : document.cameras?.[number - 1];
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

export function walkWords(rig: StopsRig, views: View[]): string {
  const passes = [...new Set(views.flatMap((view) => view.drawn ?? []))];
  const drawn = passes.length > 0 ? `, some drawn as ${passes.join(" or ")}` : "";
  return `${count(views.length, "stop")}${rig.closed ? ", and back to the first" : ""}${drawn}`;
}

/** What turns on a turntable, one after another. */
export function turningWords(rig: OrbitRig): string {
  const one = (turn: { what: string; turns: number }) =>
    turn.what === "camera"
      ? `the camera ${turnWords(turn.turns)}`
      : `the ${turn.what} ${turnWords(turn.turns)}`;
  return [rig, ...rig.followed_by].map(one).join(", then ");
}
