import { useEffect, useRef } from "react";

interface Acts {
  frames: number;
  step: (to: (at: number) => number) => void;
  play: () => void;
  again: () => void;
  from: () => void;
  to: () => void;
  all: () => void;
  lanes: () => void;
  saveView: () => void;
  flip: () => void;
  plan: () => void;
  undo: () => void;
  redo: () => void;
}

/** How many frames a key goes; Home and End go as far as there is. */
const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowRight: 1,
  Home: Number.NEGATIVE_INFINITY,
  End: Number.POSITIVE_INFINITY,
};

/** Keys of the Bench, unless a field or a part with keys of its own has them. */
export function useBenchKeys(acts: Acts) {
  const now = useRef(acts);
  now.current = acts;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { frames, step, play, again, from, to, all, lanes, undo, redo } = now.current;
      const { saveView, flip, plan } = now.current;
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
      const act = { r: again, "[": from, "]": to, "\\": all, l: lanes, v: saveView, b: flip, p: plan }[key];
      if (by !== undefined) {
        const last = frames - 1;
        step((at) => Math.min(Math.max(Math.min(at, last) + by * (event.shiftKey ? 10 : 1), 0), last));
      } else if (key === " " && !target.closest("button, a, [role=button]")) play();
      else if (act) act();
      else return;
      event.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
}
