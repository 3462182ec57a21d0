import { EyeOff, Star } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Schemas, Shot } from "../../api/client";
import { pictureOf } from "./pictureQueue";

type Variant = Schemas["VariantBody"];

/** Pictures of a small looping clip. */
const CLIP = 8;
const CLIP_MS = 160;

interface Props {
  shot: Shot;
  /** All of the shot that decides its pictures. */
  look: string;
  variant: Variant;
  frame: number;
  wide: number;
  playing: boolean;
  onOpen: () => void;
  onMark: () => void;
  onLeaveOut: () => void;
}

/** One variant on the contact sheet; of those that were never near the screen only the place is kept. */
export function VariantCell(props: Props) {
  const { shot, variant, wide } = props;
  const box = useRef<HTMLDivElement>(null);
  const seen = useSeen(box);
  const [begun, setBegun] = useState(false);
  if (seen && !begun) setBegun(true);
  const { width, height } = shot.document.picture;
  return (
    <div
      ref={box}
      className={`flex min-w-0 flex-col gap-1 ${variant.left_out ? "opacity-45" : ""}`}
      // What is out of sight is not laid out: 200 cells scroll as smoothly as 20.
      style={{
        contentVisibility: "auto",
        containIntrinsicSize: `auto ${wide}px auto ${Math.round((wide * height) / width) + 40}px`,
      }}
      data-testid="variant"
      data-variant={variant.number}
    >
      {begun && <Shown {...props} seen={seen} />}
    </div>
  );
}

/** Its picture, its name, and what is known of its take. */
function Shown({
  shot,
  look,
  variant,
  frame,
  wide,
  playing,
  seen,
  onOpen,
  onMark,
  onLeaveOut,
}: Props & { seen: boolean }) {
  const clip = playing && shot.document.sweep?.makes === "shots" && !variant.left_out;
  const frames = clip ? clipFrames(shot.timing.frames) : [frame];
  const { pictures, trouble } = usePictures(shot.id, look, variant, frames, seen, wide);
  const [at, setAt] = useState(0);
  useEffect(() => {
    if (!clip || pictures.length < 2) return;
    const timer = setInterval(() => setAt((now) => now + 1), CLIP_MS);
    return () => clearInterval(timer);
  }, [clip, pictures.length]);
  const picture = pictures[clip ? at % Math.max(pictures.length, 1) : 0];
  const { width, height } = shot.document.picture;
  return (
    <>
      <button
        type="button"
        className="block w-full overflow-hidden rounded border rule bg-well focus-visible:outline-2"
        style={{ aspectRatio: `${width} / ${height}` }}
        onClick={onOpen}
        title={`Open ${variant.name} at the Bench`}
      >
        {picture ? (
          <img src={picture} alt={variant.name} decoding="async" className="h-full w-full object-contain" />
        ) : (
          <span className="flex h-full items-center justify-center p-2 text-note quiet">
            {trouble ?? "…"}
          </span>
        )}
      </button>
      <div className="flex items-start gap-1 text-note leading-snug">
        <span className="min-w-0 flex-1 break-words" title={variant.name}>
          {variant.name}
          {variant.run !== null && <State variant={variant} />}
        </span>
        <button
          type="button"
          className="btn btn-ghost btn-xs px-1"
          aria-pressed={variant.favourite}
          aria-label={`Mark ${variant.name}`}
          title={variant.favourite ? "Marked; press to unmark" : "Mark"}
          onClick={onMark}
          disabled={variant.left_out}
        >
          <Star size={15} className={variant.favourite ? "fill-warning text-warning" : ""} aria-hidden />
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-xs px-1"
          aria-pressed={variant.left_out}
          aria-label={`Leave out ${variant.name}`}
          title={variant.left_out ? "Left out; press to include it" : "Leave out"}
          onClick={onLeaveOut}
        >
          <EyeOff size={15} className={variant.left_out ? "text-error" : ""} aria-hidden />
        </button>
      </div>
    </>
  );
}

function State({ variant: { state, done, count, run } }: { variant: Variant }) {
  const words =
    state === "done"
      ? "captured"
      : state === "running"
        ? `${done} of ${count}`
        : state === "queued"
          ? "queued"
          : state;
  return (
    <a href={`/runs/${run}`} className="link ml-1 whitespace-nowrap text-primary">
      {words}
    </a>
  );
}

const clipFrames = (count: number) => [
  ...new Set(Array.from({ length: CLIP }, (_, n) => Math.floor((n * count) / CLIP))),
];

const tellers = new WeakMap<Element, (seen: boolean) => void>();
/** One for all cells: 10,000 of them are too many for as many watchers. */
const watcher = new IntersectionObserver(
  (entries) => {
    for (const { target, isIntersecting } of entries) tellers.get(target)?.(isIntersecting);
  },
  { rootMargin: "200px" },
);

/** Whether something is in sight, or near it. */
function useSeen(box: React.RefObject<HTMLDivElement | null>) {
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    tellers.set(element, setSeen);
    watcher.observe(element);
    return () => watcher.unobserve(element);
  }, [box]);
  return seen;
}

/** Small pictures of a variant, asked for while it is in sight; kept until the shot changes. */
function usePictures(
  id: string,
  look: string,
  variant: Variant,
  frames: number[],
  seen: boolean,
  wide: number,
) {
  const [pictures, setPictures] = useState<string[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  const list = frames.join(",");
  const wanted = `${variant.number} ${wide} ${list} ${look}`;
  const shown = useRef("");
  useEffect(() => {
    if (!seen || shown.current === wanted) return;
    const [number, size, all] = wanted.split(" ", 3);
    const stop = new AbortController();
    const made: string[] = [];
    void (async () => {
      try {
        for (const frame of all.split(",")) {
          const query = `frame=${frame}&width=${size}&height=${size}&samples=2`;
          made.push(await pictureOf(`/api/shots/${id}/variants/${number}/view?${query}`, stop.signal));
        }
        shown.current = wanted;
        setTrouble(null);
        setPictures(made);
      } catch (error) {
        for (const url of made) URL.revokeObjectURL(url);
        if (!stop.signal.aborted) setTrouble((error as Error).message);
      }
    })();
    return () => stop.abort();
  }, [wanted, seen, id]);
  // What is no longer shown frees its memory.
  useEffect(
    () => () => {
      for (const url of pictures) URL.revokeObjectURL(url);
    },
    [pictures],
  );
  return { pictures, trouble };
}
