import { useEffect, useRef } from "react";
import { type Act, shortcutOf } from "../shell/shortcuts";

/** A shortcut that applies everywhere on a page, also in a field, whose value is applied first. */
export function useShortcut(act: Act, onPress: () => void) {
  const now = useRef(onPress);
  now.current = onPress;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.defaultPrevented || event.repeat || target.closest("dialog") || !shortcutOf(event, act))
        return;
      event.preventDefault();
      if (target.closest("input, textarea, select")) target.blur();
      now.current();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [act]);
}
