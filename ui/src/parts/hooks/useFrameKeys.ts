import { useEffect, useRef } from "react";

interface Acts {
  frames: number;
  step: (to: (at: number) => number) => void;
  play: () => void;
  undo: () => void;
  redo: () => void;
  /** What else a place does on a letter or sign. */
  others?: Record<string, () => void>;
}

/** How many frames a key goes; Home and End go as far as there is. */
const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowRight: 1,
  Home: Number.NEGATIVE_INFINITY,
  End: Number.POSITIVE_INFINITY,
};

/** Keys of a place that shows frames, unless a field or a part with keys of its own has them. */
export function useFrameKeys(acts: Acts) {
  const now = useRef(acts);
  now.current = acts;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { frames, step, play, undo, redo, others = {} } = now.current;
      const target = event.target as HTMLElement;
      const key = event.key.toLowerCase();
      // A part that took the key has said so.
      if (event.defaultPrevented) return;
      const typing = target.closest("input, textarea, select");
      // What is typed and not taken yet is the field's own to undo.
      const drafting = typing instanceof HTMLElement && "draft" in typing.dataset;
      if ((event.ctrlKey || event.metaKey) && !drafting && (key === "z" || key === "y")) {
        event.preventDefault();
        if (key === "y" || event.shiftKey) redo();
        else undo();
        return;
      }
      if (typing || target.closest("dialog, [data-own-keys]") || event.ctrlKey || event.metaKey) return;
      const by = STEPS[event.key];
      if (by !== undefined && !event.altKey) {
        const last = frames - 1;
        step((at) => Math.min(Math.max(Math.min(at, last) + by * (event.shiftKey ? 10 : 1), 0), last));
      } else if (key === " " && !target.closest("button, a, summary, [role=button]")) play();
      else if (others[key]) others[key]();
      else return;
      event.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
}
