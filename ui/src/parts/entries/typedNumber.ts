const GROUPS = /^[-+]?\d{1,3}(,\d{3})+(\.\d*)?$/;
const TWO_WAYS = /^[-+]?[1-9]\d{0,2},\d{3}$/;

/** The number that a text says; NaN if none. `vexel.core.typed_number` reads the same. */
export function numberOf(text: string): number {
  const bare = text.trim();
  if (bare === "" || readsTwoWays(bare)) return Number.NaN;
  return Number(GROUPS.test(bare) ? bare.replaceAll(",", "") : bare);
}

/** Whether a comma may part thousands or decimals: 1,000 is a thousand to some, and one to others. */
export const readsTwoWays = (text: string) => TWO_WAYS.test(text.trim());

export interface Bounds {
  min?: number;
  max?: number;
  /** A bound that is not itself allowed. */
  above?: number;
  whole?: boolean;
}

/** The number that a text says, or why it is not taken for what the label names. */
export function numberIn(text: string, label: string, bounds: Bounds): { value: number } | { wrong: string } {
  const n = numberOf(text);
  if (readsTwoWays(text)) {
    const [whole, rest] = text.trim().split(",");
    return {
      wrong: `${text.trim()} could be ${whole}${rest} or ${whole}.${rest}: write it without the comma, or with a point`,
    };
  }
  if (Number.isNaN(n) && /^[-+]?\d+,\d+$/.test(text.trim()))
    return { wrong: `${text.trim()} has a comma: write ${text.trim().replace(",", ".")}` };
  if (Number.isNaN(n)) return { wrong: `“${text.trim()}” is not a number: ${label} is unchanged` };
  if (bounds.whole && !Number.isInteger(n))
    return { wrong: `${label} must be a whole number, not ${text.trim()}` };
  const range = rangeOf(bounds);
  const { min = -Infinity, max = Infinity, above = -Infinity } = bounds;
  if (n >= min && n <= max && n > above) return { value: n };
  return { wrong: `${label} must be ${range}: ${spelled(n)} was not applied` };
}

const spelled = (n: number) => n.toLocaleString("en", { maximumFractionDigits: 6 });

function rangeOf({ min, max, above }: Bounds): string {
  if (above !== undefined)
    return `above ${spelled(above)}${max === undefined ? "" : `, at most ${spelled(max)}`}`;
  if (min === undefined) return `at most ${spelled(max ?? 0)}`;
  return max === undefined ? `${spelled(min)} or more` : `from ${spelled(min)} to ${spelled(max)}`;
}
