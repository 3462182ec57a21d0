import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import type { Patch, Shot } from "../../api/client";
import { useVersion } from "../../api/version";
import { Complaint } from "../../parts/Complaint";
import { useWheel } from "../../parts/useWheel";
import { short } from "../../parts/words";
import type { Edit } from "./edit";
import { rateOf } from "./play/rate";
import { useFilm } from "./play/useFilm";
import type { Stretch } from "./play/usePlay";
import type { Aim } from "./play/usePlayIn";
import { roundRig } from "./rigs";
import { useLooks } from "./useLooks";
import { usePicture } from "./usePicture";

const DEGREES_A_PIXEL = 0.4;
const WHEEL_REST_MS = 350;

interface Props {
  shot: Shot;
  frame: number;
  edit: Edit;
  /** What is shown without being saved. */
  preview?: Patch;
  /** The stretch that is playing. */
  film: Stretch | null;
  /** Takes what a drag does, in place of saving it. */
  onAim?: (aim: Aim) => void;
}

/** The live picture: drag to orbit, wheel for the distance, arrow keys when it has the focus. */
export function Viewfinder({ shot, frame, edit, preview, film, onAim }: Props) {
  const well = useRef<HTMLDivElement>(null);
  const room = useRoom(well);
  const saved = aimOf(shot);
  const [aim, setAim] = useState<Aim | null>(null);
  const drag = useRef<{ x: number; y: number; from: Aim } | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);

  // The saved shot has caught up with the drag, so the drag's own aim is done.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new revision, or the end of a gesture, ends it
  useEffect(() => setAim(null), [shot.revision, onAim === undefined]);
  // A drag that was taken as a gesture is not saved once more when it is let go.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the beginning or the end of a gesture ends it
  useEffect(() => {
    drag.current = null;
  }, [onAim === undefined]);

  const version = useVersion(shot.id);
  // A camera that flies is led by its keys.
  const looks = useLooks(shot) && roundRig(shot.document) !== undefined;
  const flies = shot.document.camera?.rig?.kind === "path";
  const samples = shot.document.picture?.samples ?? 1;
  const patch = aim ? { ...preview, camera: { rig: aim } } : preview;
  const wanted = room && {
    shotId: shot.id,
    revision: shot.revision,
    version,
    frame,
    width: room.width,
    height: room.height,
    samples: 1,
    patch,
    steady: preview !== undefined,
  };
  const picture = usePicture(film ? null : wanted, Math.min(samples, 8));
  const rate = rateOf(shot);
  const reel = useFilm(film !== null, wanted, film ?? { from: 0, to: 0 }, rate);
  const address = (film && reel.address) || picture.address;

  const save = (to: Aim) => (onAim ? onAim(to) : edit({ camera: { rig: to } }, "the camera"));
  useWheel(well, (event) => {
    if (!looks) return;
    const to = nearer(aim ?? saved, Math.exp(-event.deltaY / 900));
    setAim(to);
    if (onAim) return onAim(to);
    clearTimeout(rest.current);
    rest.current = setTimeout(() => save(to), WHEEL_REST_MS);
  });

  const onPointerDown = (event: PointerEvent) => {
    if (event.button !== 0 || !looks) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { x: event.clientX, y: event.clientY, from: aim ?? saved };
  };
  const onPointerMove = (event: PointerEvent) => {
    if (!drag.current) return;
    const { x, y, from } = drag.current;
    const to = turned(from, (event.clientX - x) * DEGREES_A_PIXEL, (event.clientY - y) * DEGREES_A_PIXEL);
    setAim(to);
    onAim?.(to);
  };
  const onPointerUp = () => {
    if (drag.current && aim) save(aim);
    drag.current = null;
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const to = looks && aimed(event.key, aim ?? saved, event.shiftKey ? 10 : 2);
    if (to) {
      event.preventDefault();
      if (onAim) setAim(to);
      save(to);
    }
  };

  const shown = aim ?? saved;
  const clear = shot.document.picture?.background === "transparent";
  return (
    <div className="well relative flex min-w-0 flex-1 flex-col">
      <div
        ref={well}
        role="application"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it is worked by keys
        tabIndex={0}
        data-own-keys
        data-testid="viewfinder"
        aria-label={
          looks
            ? "Viewfinder: arrow keys orbit, plus and minus change the distance"
            : "Viewfinder: the picture"
        }
        className={`relative m-3 flex min-h-0 flex-1 touch-none items-center justify-center ${looks ? "cursor-grab active:cursor-grabbing" : ""}`}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={onPointerUp}
        onKeyDown={onKeyDown}
      >
        {address ? (
          <img
            src={address}
            alt={`Frame ${frame}`}
            draggable={false}
            className={`max-h-full max-w-full select-none ${clear ? "well-checks" : ""} ${picture.error ? "opacity-50" : ""}`}
          />
        ) : (
          !picture.error && <span className="text-white">The stage is being set…</span>
        )}
        {picture.error && (
          <div className="absolute inset-x-4 bottom-4 mx-auto max-w-xl">
            <Complaint error={picture.error} />
            {address && (
              <p className="mt-1 text-center text-[12px] text-white">shown is the last good picture</p>
            )}
          </div>
        )}
      </div>
      <div className="figures flex items-center gap-4 bg-black/45 px-3 py-1 text-[12px] text-white">
        <span data-testid="frame-now">
          frame <b>{frame}</b> of {shot.reckoning.frames}
        </span>
        {looks && (
          <>
            <span>{short(shown.elevation_deg, 1)}° high</span>
            <span>start {short(shown.start_deg, 1)}°</span>
            <span>fills {Math.round(shown.fill * 100)} %</span>
          </>
        )}
        <span className="flex-1 text-right font-sans opacity-90">
          {looks
            ? "drag to orbit · wheel for distance"
            : flies
              ? "the camera flies along its keys"
              : "the picture comes from the source as it is"}
        </span>
        {film ? (
          <span data-testid="achieved" title="Pictures shown in the last second; the motion keeps its rate">
            <b>{reel.achieved}</b> of {short(rate, 2)} fps shown
          </span>
        ) : (
          <span title="From asking to showing">
            {picture.milliseconds ? `${Math.round(picture.milliseconds)} ms` : ""}
          </span>
        )}
      </div>
    </div>
  );
}

function aimOf(shot: Shot): Aim {
  const rig = roundRig(shot.document);
  return { start_deg: rig?.start_deg ?? 0, elevation_deg: rig?.elevation_deg ?? 18, fill: rig?.fill ?? 0.8 };
}

/** The aim turned by degrees: to the right, and upward. */
function turned(from: Aim, right: number, up: number): Aim {
  return {
    ...from,
    start_deg: round(wrap(from.start_deg - right)),
    elevation_deg: round(Math.min(Math.max(from.elevation_deg + up, -89), 89)),
  };
}

function nearer(from: Aim, by: number): Aim {
  return { ...from, fill: Number(Math.min(Math.max(from.fill * by, 0.02), 4).toFixed(3)) };
}

/** Where a key takes the aim, or null when it is none of the viewfinder's. */
function aimed(key: string, from: Aim, by: number): Aim | null {
  switch (key) {
    case "ArrowLeft":
      return turned(from, -by, 0);
    case "ArrowRight":
      return turned(from, by, 0);
    case "ArrowUp":
      return turned(from, 0, -by);
    case "ArrowDown":
      return turned(from, 0, by);
    case "+":
      return nearer(from, 1.05);
    case "-":
      return nearer(from, 1 / 1.05);
    default:
      return null;
  }
}

const round = (degrees: number) => Number(degrees.toFixed(2));
const wrap = (degrees: number) => ((((degrees + 180) % 360) + 360) % 360) - 180;

/** Width and height in pixels that the picture may take. */
function useRoom(ref: React.RefObject<HTMLDivElement | null>) {
  const [room, setRoom] = useState<{ width: number; height: number } | null>(null);
  useEffect(() => {
    if (!ref.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      if (width > 32 && height > 32) setRoom({ width: Math.floor(width), height: Math.floor(height) });
    });
    observer.observe(ref.current);
    return () => observer.disconnect();
  }, [ref]);
  return room;
}
