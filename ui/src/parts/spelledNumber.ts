/** A number as 2nd or 11th. */
export function ordinal(n: number): string {
  const ends: Record<string, string> = { one: "st", two: "nd", few: "rd", other: "th" };
  return `${n.toLocaleString("en")}${ends[new Intl.PluralRules("en", { type: "ordinal" }).select(n)]}`;
}

/** A saved coordinate or key value: six significant digits, or four decimals where these are more. */
export function coordinate(value: number): number {
  const [digits, decimals] = [Number(value.toPrecision(6)), Number(value.toFixed(4))];
  return Math.abs(digits - value) < Math.abs(decimals - value) ? digits : decimals;
}
