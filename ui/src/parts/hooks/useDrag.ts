import { type PointerEvent, useRef } from "react";

/** The position of a drag, in screen pixels. */
export interface Dragged {
  /** From the press. */
  dx: number;
  dy: number;
  /** Whether it ever went so far that it is no click. */
  moved: boolean;
  event: PointerEvent;
}

interface Handlers<From, Spread> {
  /** What the press takes hold of; null when it is not the beginning of a drag. */
  start: (event: PointerEvent) => From | null;
  move: (from: From, to: Dragged) => void;
  /** Released, or taken over by the browser. */
  end?: (from: From, to: Dragged) => void;
  /** Two fingers, whose distance has grown by a factor since the second one came down. */
  pinch?: { start: () => Spread; move: (from: Spread, by: number) => void; end?: () => void };
}

/** A press that stays within these pixels is a click. */
export const NEAR = 4;

interface Finger {
  x: number;
  y: number;
}

/** The pointer handlers of one drag at a time: one pointer, or two fingers where a pinch means something. */
export function useDrag<From, Spread = never>(handlers: Handlers<From, Spread>) {
  const now = useRef(handlers);
  now.current = handlers;
  const fingers = useRef(new Map<number, Finger>());
  const drag = useRef<{ from: From; id: number; x: number; y: number; moved: boolean } | null>(null);
  const pinch = useRef<{ from: Spread; apart: number } | null>(null);

  const dragged = (event: PointerEvent): Dragged => {
    const held = drag.current;
    const [dx, dy] = held ? [event.clientX - held.x, event.clientY - held.y] : [0, 0];
    if (held) held.moved ||= Math.abs(dx) > NEAR || Math.abs(dy) > NEAR;
    return { dx, dy, moved: held?.moved ?? false, event };
  };
  const onPointerDown = (event: PointerEvent) => {
    const { start, pinch: two } = now.current;
    fingers.current.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (two && fingers.current.size === 2 && drag.current) {
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = null;
      pinch.current = { from: two.start(), apart: apartOf(fingers.current) };
      return;
    }
    if (drag.current || pinch.current) return;
    const from = start(event);
    if (from === null) {
      fingers.current.delete(event.pointerId);
      return;
    }
    // A captured drag continues outside of the element, and its end is never missed.
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { from, id: event.pointerId, x: event.clientX, y: event.clientY, moved: false };
  };
  const onPointerMove = (event: PointerEvent) => {
    if (!fingers.current.has(event.pointerId)) return;
    fingers.current.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (pinch.current)
      now.current.pinch?.move(pinch.current.from, apartOf(fingers.current) / pinch.current.apart);
    else if (drag.current?.id === event.pointerId) now.current.move(drag.current.from, dragged(event));
  };
  const onPointerUp = (event: PointerEvent) => {
    if (!fingers.current.delete(event.pointerId)) return;
    const [held, two] = [drag.current, pinch.current];
    if (two) {
      pinch.current = null;
      now.current.pinch?.end?.();
    } else if (held?.id === event.pointerId) {
      const to = dragged(event);
      drag.current = null;
      now.current.end?.(held.from, to);
    }
  };
  return {
    handlers: { onPointerDown, onPointerMove, onPointerUp, onPointerCancel: onPointerUp },
    /** Whether a hand is at it. */
    going: () => drag.current !== null || pinch.current !== null,
    /** Lets go without an end. */
    drop: () => {
      drag.current = null;
      pinch.current = null;
    },
  };
}

/** How far two fingers are apart, at least a pixel. */
function apartOf(fingers: Map<number, Finger>): number {
  const [one, other] = [...fingers.values()];
  return other ? Math.max(Math.hypot(one.x - other.x, one.y - other.y), 1) : 1;
}
