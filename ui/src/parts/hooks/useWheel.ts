import { type RefObject, useEffect, useRef } from "react";

/** Listens to the wheel over an element, and keeps the page from scrolling under it. */
export function useWheel(ref: RefObject<HTMLElement | null>, onWheel: (event: WheelEvent) => void) {
  const now = useRef(onWheel);
  now.current = onWheel;
  useEffect(() => {
    const element = ref.current;
    // React's own wheel listeners are passive.
    const listen = (event: WheelEvent) => {
      event.preventDefault();
      now.current(event);
    };
    element?.addEventListener("wheel", listen, { passive: false });
    return () => element?.removeEventListener("wheel", listen);
  }, [ref]);
}
