import type { ShotDocument } from "../../api/client";

export type Camera = NonNullable<ShotDocument["camera"]>;
export type Rig = Camera["rig"];
export type View = Camera["views"][number];
export type PathRig = Extract<Rig, { kind: "path" }>;
export type StopsRig = Extract<Rig, { kind: "stops" }>;
export type OrbitRig = Extract<Rig, { kind: "orbit" }>;
/** A rig that looks at its subject from one place, or circles it. */
export type RoundRig = Exclude<Rig, PathRig | StopsRig>;

/** The rig, where a drag in the viewfinder means something to it. */
export function roundRig(rig: Rig | undefined): RoundRig | undefined {
  if (rig?.kind === "path" || rig?.kind === "stops" || (rig?.kind === "still" && rig.position))
    return undefined;
  return rig;
}

/** The shot's own camera, or one of the further ones. */
export function cameraOf(document: ShotDocument, number: number): Camera | undefined {
  return number === 0 ? document.camera : document.cameras[number - 1];
}
