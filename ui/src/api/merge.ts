import type { Patch } from "./client";

const isPart = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** A JSON merge patch, applied (RFC 7396); a part whose kind changes takes nothing of the old one over. */
export function merged<T>(target: T, patch: unknown): T {
  if (!isPart(patch)) return patch as T;
  const result: Record<string, unknown> =
    isPart(target) && !isAnotherKind(target, patch) ? { ...target } : {};
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) delete result[key];
    else result[key] = merged(result[key], value);
  }
  return result as T;
}

/** One patch that does what two do, one after the other. */
export function composed(first: Patch | undefined, then: Patch | undefined): Patch | undefined {
  if (!first || !then) return first ?? then;
  const result: Patch = { ...first };
  for (const [key, value] of Object.entries(then)) {
    const before = result[key];
    const both = isPart(before) && isPart(value) && !isAnotherKind(before, value);
    result[key] = both ? composed(before, value) : value;
  }
  return result;
}

function isAnotherKind(target: Record<string, unknown>, patch: Record<string, unknown>): boolean {
  return typeof patch.kind === "string" && patch.kind !== target.kind;
}
