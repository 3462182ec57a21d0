import createClient from "openapi-fetch";
import type { Readable } from "openapi-typescript-helpers";
import type { components, paths } from "./generated";

export type Schemas = components["schemas"];
/** A shot as the server knows it, with the edits that are not saved yet merged into its document. */
export type Shot = Readable<Schemas["ShotBody"]> & { unsaved?: Patch };
export type Reel = Readable<Schemas["ReelBody"]>;
export type ShotLine = Schemas["ShotLine"];
export type ShotDocument = Shot["document"];
export type Run = Schemas["RunBody"];
export type Output = Schemas["OutputBody"];
export type Source = Schemas["SourceBody"];
export type Finding = Schemas["FindingBody"];
export type Patch = Record<string, unknown>;
/** A merge patch (RFC 7396) of something: any of its parts, null for the default; lists are replaced as wholes. */
export type PatchOf<T> = T extends readonly unknown[]
  ? T
  : T extends object
    ? { [K in keyof T]?: PatchOf<T[K]> | null }
    : T;
export type ShotPatch = PatchOf<ShotDocument>;

export const client = createClient<paths>();

/** A refusal of the server, in its own sentence. */
export class Refusal extends Error {
  readonly line: number;
  /** Whether a limit was reached that a capture may not have. */
  readonly limited: boolean;
  /** Whether somebody else has changed the same meanwhile. */
  readonly stale: boolean;
  /** Whether code of a received project waits for a review. */
  readonly unseen: boolean;

  constructor(sentence: string, answered: Partial<Schemas["ErrorBody"]> = {}, status = 0) {
    super(sentence);
    this.line = answered.line ?? 0;
    this.limited = answered.limited ?? false;
    this.stale = status === 409;
    this.unseen = answered.unseen ?? false;
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The body of an answer, or its refusal thrown. */
export async function body<T>(answer: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await answer;
  } catch {
    throw new Refusal("Vexel does not answer. It may have been stopped: start it again, then continue here.");
  }
  if (got.data === undefined) throw refusal(got.error, got.response.status);
  return got.data;
}

export function refusal(error: unknown, status: number): Refusal {
  const answered = error as Partial<Schemas["ErrorBody"]> | undefined;
  return new Refusal(answered?.error ?? `Vexel answered with status ${status}.`, answered, status);
}
