import { type CSSProperties, useEffect, useRef } from "react";
import type { Playhead } from "./playhead";
import type { Feed } from "./useFeed";

interface Props {
  playhead: Playhead;
  feed: Feed;
  /** Painted over it as the difference of both. */
  against?: Feed;
  label: string;
  style: CSSProperties;
  testId: string;
  className?: string;
  /** Why the frame cannot be shown. */
  onTrouble: (trouble: string) => void;
}

/** The picture of the frame at the playhead; until a new one is there, the one before stays. */
export function FrameCanvas({ playhead, feed, against, label, style, testId, className, onTrouble }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const tell = useRef(onTrouble);
  tell.current = onTrouble;
  useEffect(() => {
    const paint = () => {
      const box = canvas.current;
      if (!box) return;
      const { frame, standIn } = playhead.now();
      const shown = pictureAt(feed, frame, standIn);
      const other = against ? pictureAt(against, frame, standIn) : null;
      const trouble = [shown, other].map((one) => (typeof one === "string" ? one : "")).find(Boolean) ?? "";
      tell.current(trouble);
      const mark = `${frame}:${bitmapMark(shown)}:${bitmapMark(other)}`;
      if (box.dataset.painted === mark) return;
      if (shown === undefined || (against && other === undefined)) {
        box.dataset.waiting = String(frame);
        return;
      }
      delete box.dataset.waiting;
      box.dataset.painted = mark;
      box.dataset.frame = String(frame);
      draw(box, shown, other);
    };
    paint();
    const stops = [playhead.watch(paint), feed.watch(paint)];
    if (against) stops.push(against.watch(paint));
    return () => {
      for (const stop of stops) stop();
      if (canvas.current) delete canvas.current.dataset.painted;
    };
  }, [playhead, feed, against]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={label}
      data-testid={testId}
      className={className}
      style={style}
    />
  );
}

type Shown = ImageBitmap | string | undefined;

/** The picture of a feed at a frame of the playhead, or why there is none; undefined while it is on its way. */
function pictureAt(feed: Feed, frame: number, standIn: number): Shown {
  const own = feed.frameAt(frame);
  if (own === null) return "There is no frame at this time.";
  return feed.best(own, standIn) ?? (feed.store.trouble(own) || undefined);
}

const bitmapMark = (shown: Shown | null) =>
  shown == null ? "none" : typeof shown === "string" ? "trouble" : String(shown.width);

function draw(canvas: HTMLCanvasElement, shown: Shown, other: Shown | null) {
  const ink = canvas.getContext("2d", { willReadFrequently: false });
  if (!ink) return;
  if (typeof shown !== "object" || (other !== null && typeof other !== "object")) {
    ink.clearRect(0, 0, canvas.width, canvas.height);
    return;
  }
  if (canvas.width !== shown.width || canvas.height !== shown.height) {
    canvas.width = shown.width;
    canvas.height = shown.height;
  } else ink.clearRect(0, 0, canvas.width, canvas.height);
  ink.globalCompositeOperation = "source-over";
  ink.drawImage(shown, 0, 0);
  if (!other) return;
  ink.globalCompositeOperation = "difference";
  ink.drawImage(other, 0, 0, shown.width, shown.height);
}
