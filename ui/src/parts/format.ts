/** Numbers and times as people read them. */

export function count(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString("en")} ${n === 1 ? one : many}`;
}

export function size(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  const units = ["kB", "MB", "GB", "TB"];
  let value = bytes;
  let unit = -1;
  while (value >= 1000 && unit < units.length - 1) {
    value /= 1000;
    unit += 1;
  }
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${units[unit]}`;
}

/** A range of bytes, with the unit once where both ends have the same. */
export function sizes(low: number, high: number): string {
  const [from, to] = [size(Math.round(low)), size(Math.round(high))];
  const [value, unit] = from.split(" ");
  return `${to.endsWith(` ${unit}`) ? value : from} to ${to}`;
}

/** Seconds as 0:42, 12:05 or 3:02:10. */
export function span(seconds: number): string {
  const whole = Math.max(Math.round(seconds), 0);
  const s = String(whole % 60).padStart(2, "0");
  const minutes = Math.floor(whole / 60);
  if (minutes < 60) return `${minutes}:${s}`;
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}:${s}`;
}

/** A number with few decimals and no trailing zeros. */
export function short(value: number, places = 3): string {
  return String(Number(value.toFixed(places)));
}

export function when(iso: string): string {
  if (!iso) return "";
  const then = new Date(iso);
  const today = new Date().toDateString() === then.toDateString();
  const time = then.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  return today
    ? `today ${time}`
    : `${then.toLocaleDateString("en-GB", { day: "numeric", month: "short" })} ${time}`;
}
