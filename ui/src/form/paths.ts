import type { Patch, Schemas } from "../api/client";

type Condition = Schemas["Condition"];
export type Values = Record<string, unknown>;
/** What a place knows beside the document: facts for conditions, lists for choices, words for hints. */
export type Known = Record<string, unknown>;

const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other);

/** A value of a document by its path, such as `camera.lens.shift_mm.0`. */
export function valueAt(values: unknown, path: string): unknown {
  let at = values;
  for (const name of path.split(".")) at = (at as Values | null | undefined)?.[name];
  return at;
}

/** The merge patch that sets values by their paths. A list is replaced as a whole. */
export function patchOf(values: unknown, sets: Values): Patch {
  const patch: Patch = {};
  for (const [path, value] of Object.entries(sets)) {
    const names = path.split(".");
    let at: Values = patch;
    for (let n = 0; n < names.length; n++) {
      const name = names[n];
      if (/^\d+$/.test(names[n + 1] ?? "")) {
        const list = (at[name] ?? valueAt(values, names.slice(0, n + 1).join("."))) as unknown[];
        at[name] = list.with(Number(names[n + 1]), value);
        break;
      }
      if (n === names.length - 1) at[name] = value;
      else {
        at[name] ??= {};
        at = at[name] as Values;
      }
    }
  }
  return patch;
}

/** Whether all conditions hold. */
export function holds(conditions: Condition[], values: unknown, known: Known): boolean {
  return conditions.every(({ path, values: some, holds: yes }) => {
    const value = path.startsWith("$") ? known[path.slice(1)] : valueAt(values, path);
    return some.some((one) => same(one, value ?? null)) === yes;
  });
}

/** A text with what is known put in, as in `{$reason}`, or values of the document, as in `{=unit_mm}`. */
export function filled(text: string, values: unknown, known: Known): string {
  return text.replace(/\{([$=])([\w.]+)\}/g, (_, from: string, name: string) =>
    String((from === "$" ? known[name] : valueAt(values, name)) ?? ""),
  );
}

export const isSame = same;
