/** The number that a fraction of the server is, such as "24000/1001". */
export function fraction(text: string): number {
  const [over, under = "1"] = text.split("/");
  return Number(over) / Number(under);
}
