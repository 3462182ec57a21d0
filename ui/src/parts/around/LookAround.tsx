import { useEffect, useRef, useState } from "react";
import { ARROWS } from "../hooks/arrows";
import { useDrag } from "../hooks/useDrag";
import { useWheel } from "../hooks/useWheel";
import { type Panorama, type Picture, type SphereView, sphereView, type Turn } from "./sphereView";

interface Props {
  panorama: Panorama;
  /** Address of an equirectangular picture. */
  picture?: string;
  /** Or a video that plays one. */
  video?: HTMLVideoElement | null;
}

/** A sphere looked at from its middle: drag or arrow keys to look around, wheel for the field of view. */
export function LookAround({ panorama, picture, video }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [turn, setTurn] = useState<Turn>({ right: 0, up: 0, view: 90 });
  const [blind, setBlind] = useState(false);
  const [lost, setLost] = useState(false);
  const [view, setView] = useState<SphereView | null>(null);
  const now = useRef(turn);
  now.current = turn;
  const { covers, eyes } = panorama;
  useEffect(() => {
    if (!canvas.current) return;
    const made = sphereView(canvas.current, { covers, eyes });
    setBlind(made === null);
    setView(made);
  }, [covers, eyes]);
  useEffect(() => {
    setLost(false);
    return view && picture ? showing(view, picture, now, () => setLost(true)) : undefined;
  }, [view, picture]);
  useEffect(() => (view && video ? playing(view, video, now) : undefined), [view, video]);
  useEffect(() => view?.look(turn), [view, turn]);
  useWheel(canvas, (event) =>
    setTurn((old) => ({ ...old, view: bounded(old.view * Math.exp(event.deltaY / 900), 20, 130) })),
  );
  const look = (right: number, up: number) => setTurn((old) => ({ ...old, right, up: bounded(up, -90, 90) }));
  const drag = useDrag<Turn, Turn>({
    start: (event) => {
      event.stopPropagation();
      return turn;
    },
    move: ({ right, up, view }, { dx, dy }) => look(right - (dx * view) / 500, up + (dy * view) / 500),
    pinch: {
      start: () => now.current,
      move: ({ view }, by) => setTurn((old) => ({ ...old, view: bounded(view / by, 20, 130) })),
    },
  });
  if (blind)
    return <p className="p-4 text-white">This browser cannot show the panorama: WebGL is switched off.</p>;
  return (
    <>
      {lost && (
        <p className="p-4 text-white">This frame can no longer be read: resume its run to make it again.</p>
      )}
      <canvas
        ref={canvas}
        width={960}
        height={540}
        tabIndex={0}
        aria-label="Panorama: arrow keys look around, plus and minus change the field of view"
        data-testid="look-around"
        hidden={lost}
        className="max-h-full max-w-full cursor-grab touch-none active:cursor-grabbing"
        {...drag.handlers}
        onKeyDown={(event) => {
          const step = ARROWS[event.key];
          if (step) look(turn.right + STEP_DEG * step[0], turn.up - STEP_DEG * step[1]);
          else if (event.key === "+") setTurn({ ...turn, view: bounded(turn.view / 1.1, 20, 130) });
          else if (event.key === "-") setTurn({ ...turn, view: bounded(turn.view * 1.1, 20, 130) });
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
      />
    </>
  );
}

const STEP_DEG = 5;
const bounded = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);

/** Show a picture once it is there, unless another was wanted meanwhile. */
function showing(view: SphereView, address: string, turn: { current: Turn }, onLost: () => void): () => void {
  const loaded = new Image();
  loaded.onload = () => seen(view, loaded, turn.current);
  loaded.onerror = onLost;
  loaded.src = address;
  return () => {
    loaded.onload = loaded.onerror = null;
  };
}

/** Show each new picture of a video until told to end. */
function playing(view: SphereView, video: HTMLVideoElement, turn: { current: Turn }): () => void {
  let next = 0;
  const onFrame = () => {
    seen(view, video, turn.current);
    next = video.requestVideoFrameCallback(onFrame);
  };
  if (video.readyState >= HTMLMediaElement.HAVE_CURRENT_DATA) seen(view, video, turn.current);
  next = video.requestVideoFrameCallback(onFrame);
  return () => video.cancelVideoFrameCallback(next);
}

function seen(view: SphereView, picture: Picture, turn: Turn): void {
  view.show(picture);
  view.look(turn);
}
