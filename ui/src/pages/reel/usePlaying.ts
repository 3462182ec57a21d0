import { useEffect, useRef, useState } from "react";
import { pictureOf, type ReelData } from "./reelItems";

const STAND_IN = 480;
const AHEAD = 12;

/**
 * Plays a reel at its true rate: small pictures are asked for ahead, and those that do not come in time are passed
 * over. Returns the frame shown now, and the achieved pictures per second.
 */
export function usePlaying(
  reel: ReelData | undefined,
  frame: number,
  onFrame: (frame: number) => void,
  format: string,
) {
  const [playing, setPlaying] = useState(false);
  const [shown, setShown] = useState<{ source: string; achieved: number } | null>(null);
  const from = useRef(frame);
  from.current = frame;
  const tell = useRef(onFrame);
  tell.current = onFrame;
  useEffect(() => {
    if (!playing || !reel || reel.frames === 0) return;
    const begun = performance.now();
    const first = from.current;
    const pictures = new Map<number, HTMLImageElement>();
    let count = 0;
    let last = -1;
    let turn = 0;
    const ask = (number: number) => {
      if (pictures.has(number)) return;
      const image = new Image();
      image.src = pictureOf(reel, number, STAND_IN, format);
      pictures.set(number, image);
    };
    const next = (now: number) => {
      const gone = Math.floor(((now - begun) / 1000) * reel.rate);
      const number = (first + gone) % reel.frames;
      for (let ahead = 0; ahead < AHEAD; ahead++) ask((number + ahead) % reel.frames);
      const image = pictures.get(number);
      if (number !== last && image?.complete && image.naturalWidth > 0) {
        last = number;
        count += 1;
        setShown({ source: image.src, achieved: (count * 1000) / Math.max(now - begun, 1) });
        tell.current(number);
      }
      for (const [old] of pictures) {
        if (pictures.size <= 4 * AHEAD) break;
        pictures.delete(old);
      }
      turn = requestAnimationFrame(next);
    };
    turn = requestAnimationFrame(next);
    return () => {
      cancelAnimationFrame(turn);
      setShown(null);
    };
  }, [playing, reel, format]);
  return { playing, shown, toggle: () => setPlaying((before) => !before), stop: () => setPlaying(false) };
}
