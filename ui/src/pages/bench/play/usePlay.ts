import { useEffect, useRef, useState } from "react";

/** A stretch of frames, both ends shown. */
export interface Stretch {
  from: number;
  to: number;
}

export interface Playing {
  going: boolean;
  toggle: () => void;
  stop: () => void;
  /** Plays once from the beginning of the stretch, telling the exact place; `speed` 0.5 is half as fast. */
  once: (speed: number, onPlace: (at: number) => void, onEnd: () => void) => void;
}

interface Run {
  begun: number;
  from: number;
  speed: number;
  onPlace?: (at: number) => void;
  onEnd?: () => void;
}

/**
 * Plays frames at their true rate: the frame that is shown follows from the time
 * since the start alone, so that a slow picture never makes the motion slower.
 */
export function usePlay(
  rate: number,
  stretch: Stretch,
  loop: boolean,
  frame: number,
  setAt: (at: number) => void,
): Playing {
  const [going, setGoing] = useState(false);
  const run = useRef<Run | null>(null);
  const now = useRef({ rate, stretch, loop, frame, setAt });
  now.current = { rate, stretch, loop, frame, setAt };

  const begin = (made: Omit<Run, "begun">) => {
    run.current = { ...made, begun: performance.now() };
    setGoing(true);
  };
  const stop = () => {
    run.current = null;
    setGoing(false);
  };

  useEffect(() => {
    if (!going) return;
    let ticket = 0;
    const tick = (time: number) => {
      ticket = requestAnimationFrame(tick);
      const playing = run.current;
      if (!playing) return;
      const { rate, stretch, loop, setAt } = now.current;
      const count = stretch.to - stretch.from + 1;
      const gone = (Math.max(time - playing.begun, 0) / 1000) * rate * playing.speed;
      const along = playing.from - stretch.from + gone;
      const ended = along >= count && (!loop || playing.onEnd !== undefined);
      const at = ended ? stretch.to : stretch.from + (((along % count) + count) % count);
      playing.onPlace?.(at);
      setAt(Math.min(Math.floor(at), stretch.to));
      if (!ended) return;
      run.current = null;
      setGoing(false);
      playing.onEnd?.();
    };
    ticket = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(ticket);
  }, [going]);

  return {
    going,
    stop,
    toggle: () => {
      if (run.current) return stop();
      const { stretch, frame, loop } = now.current;
      const inside = frame >= stretch.from && frame <= stretch.to;
      const atEnd = frame === stretch.to && !loop;
      begin({ from: inside && !atEnd ? frame : stretch.from, speed: 1 });
    },
    once: (speed, onPlace, onEnd) => begin({ from: now.current.stretch.from, speed, onPlace, onEnd }),
  };
}
