import { body, client, type Schemas } from "./client";

export type Vocabulary = Schemas["Vocabulary"];
export type SourceKind = Vocabulary["sources"][number];

const NOTHING: Vocabulary = {
  sources: [],
  rigs: [],
  passes: [],
  recipes: [],
  easings: [],
  targets: [],
  cut_formats: [],
  file_manager: false,
  forms: {},
};
let known = NOTHING;

/** Asks the server for its names and rules, once, before anything is drawn. */
export async function loadVocabulary(): Promise<void> {
  known = await body(client.GET("/api/vocabulary"));
}

/** Names and rules of the core, which the interface asks rather than repeats. */
export const vocabulary = (): Vocabulary => known;

export const sourceKind = (name: string): SourceKind | undefined =>
  known.sources.find((kind) => kind.name === name);

/** What a lane drives, in words. */
export function targetName(drive: string): string {
  const at = drive.indexOf(":") + 1;
  const family = known.targets.find((target) => target.drive === drive.slice(0, at));
  if (family) return family.label.replace("{}", drive.slice(at));
  return known.targets.find((target) => target.drive === drive)?.label ?? drive;
}

/** A value within the bounds of what a lane may drive. */
export function bounded(drive: string, value: number): number {
  const of = known.targets.find((target) => target.drive === drive);
  const [low, high] = [of?.low ?? -Infinity, of?.high ?? Infinity];
  return Math.min(Math.max(value, low), high);
}

export const passLabel = (name: string): string =>
  known.passes.find((pass) => pass.name === name)?.label ?? name;
