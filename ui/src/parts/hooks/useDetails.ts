import { useSyncExternalStore } from "react";

const KEY = "vexel-details";
const watching = new Set<() => void>();

function watch(tell: () => void) {
  watching.add(tell);
  return () => watching.delete(tell);
}

/** Whether what a newcomer does not need is shown; a browser remembers it. */
export const useDetails = () => useSyncExternalStore(watch, () => localStorage.getItem(KEY) === "on");

export function toggleDetails() {
  localStorage.setItem(KEY, localStorage.getItem(KEY) === "on" ? "off" : "on");
  for (const tell of watching) tell();
}
