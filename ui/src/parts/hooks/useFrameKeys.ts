import { useEffect, useRef } from "react";
import { type Act, shortcutOf } from "../shell/shortcuts";

interface Acts {
  frames: number;
  step: (to: (at: number) => number) => void;
  /** What the place does by further shortcuts. */
  on: Partial<Record<Act, () => void>>;
}

/** How many frames a key goes; Home and End go as far as there is. */
const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowRight: 1,
  Home: Number.NEGATIVE_INFINITY,
  End: Number.POSITIVE_INFINITY,
};

/** Keys of a place that shows frames, except where a field or a part handles the key itself. */
export function useFrameKeys(acts: Acts) {
  const now = useRef(acts);
  now.current = acts;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { frames, step, on } = now.current;
      const target = event.target as HTMLElement;
      const act = shortcutOf(event, ...(Object.keys(on) as Act[]));
      // A part that took the key has said so.
      if (event.defaultPrevented) return;
      const typing = target.closest("input, textarea, select");
      // What is typed and not taken yet is the field's own to undo.
      const drafting = typing instanceof HTMLElement && "draft" in typing.dataset;
      if ((act === "undo" || act === "redo") && !drafting) {
        event.preventDefault();
        on[act]?.();
        return;
      }
      if (typing || target.closest("dialog, [data-own-keys]") || event.ctrlKey || event.metaKey) return;
      const by = STEPS[event.key];
      if (by !== undefined && !event.altKey) {
        const last = frames - 1;
        step((at) => Math.min(Math.max(Math.min(at, last) + by * (event.shiftKey ? 10 : 1), 0), last));
      } else if (act && !(act === "play" && target.closest("button, a, summary, [role=button]"))) on[act]?.();
      else return;
      event.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
}
