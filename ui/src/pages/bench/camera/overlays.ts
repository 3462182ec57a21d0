/** Overlays of the picture; none of them is ever captured. */
export const OVERLAYS = {
  thirds: "thirds",
  centre: "centre",
  safe: "safe areas, 90 and 80 %",
  horizon: "horizon",
  "2.39": "mask 2.39:1",
  "1.85": "mask 1.85:1",
  "1": "mask 1:1",
  "0.8": "mask 4:5",
  "0.5625": "mask 9:16",
} as const;
export type Overlay = keyof typeof OVERLAYS;
/** In this order; an object would put its numbers first. */
export const OVERLAY_NAMES: Overlay[] = [
  "thirds",
  "centre",
  "safe",
  "horizon",
  "2.39",
  "1.85",
  "1",
  "0.8",
  "0.5625",
];

const STORED = "vexel-overlays";

export function storedOverlays(): Overlay[] {
  const kept = (localStorage.getItem(STORED) ?? "").split(" ");
  return OVERLAY_NAMES.filter((name) => kept.includes(name));
}

export function storeOverlays(overlays: Overlay[]) {
  localStorage.setItem(STORED, overlays.join(" "));
}
