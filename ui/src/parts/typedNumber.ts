const GROUPS = /^[-+]?\d{1,3}(,\d{3})+(\.\d*)?$/;
const TWO_WAYS = /^[-+]?[1-9]\d{0,2},\d{3}$/;

/** The number that a text says, with a point or a comma; NaN if none. `vexel.core.typed_number` reads the same. */
export function numberOf(text: string): number {
  const bare = text.trim();
  if (bare === "" || readsTwoWays(bare)) return Number.NaN;
  return Number(GROUPS.test(bare) ? bare.replaceAll(",", "") : bare.replace(",", "."));
}

/** Whether a comma may part thousands or decimals: 1,000 is a thousand to some, and one to others. */
export const readsTwoWays = (text: string) => TWO_WAYS.test(text.trim());
