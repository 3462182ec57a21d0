/** A name that no other has: as it is, or with the first number that makes it one. */
export function freeName(name: string, others: string[]): string {
  if (!others.includes(name)) return name;
  for (let n = 2; ; n += 1) if (!others.includes(`${name} ${n}`)) return `${name} ${n}`;
}
