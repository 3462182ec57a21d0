/** A unique name: the given one, or the same with a number. */
export function freeName(name: string, others: string[]): string {
  if (!others.includes(name)) return name;
  for (let n = 2; ; n += 1) if (!others.includes(`${name} ${n}`)) return `${name} ${n}`;
}
