import { useEffect, useRef, useState } from "react";

/** Removes something after a while, later while it has the focus or the pointer; returns the handlers for these. */
export function useFading(shown: unknown, milliseconds: number, onGone: () => void) {
  const [held, setHeld] = useState(false);
  const gone = useRef(onGone);
  gone.current = onGone;
  useEffect(() => {
    if (!shown || held) return;
    const over = setTimeout(() => gone.current(), milliseconds);
    return () => clearTimeout(over);
  }, [shown, held, milliseconds]);
  return {
    onPointerEnter: () => setHeld(true),
    onPointerLeave: () => setHeld(false),
    onFocus: () => setHeld(true),
    onBlur: () => setHeld(false),
  };
}
