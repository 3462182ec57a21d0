import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";
import type { Patch, Shot } from "../../../api/client";
import { ARROWS } from "../../../parts/arrows";
import { useWheel } from "../../../parts/useWheel";
import type { Edit } from "../edit";
import { cameraOf, roundRig } from "../rigs";
import { type Aim, aimAt, nearer, panned, rolled, turned } from "./aim";
import { cameraEdit, cameraPatch } from "./cameraEdit";
import type { Flight } from "./useFlight";
import { type FreeLook, stillOf } from "./useFreeLook";

const DEGREES_A_PIXEL = 0.4;
const WHEEL_REST_MS = 350;

interface Wanted {
  well: RefObject<HTMLDivElement | null>;
  shot: Shot;
  /** Which of the shot's cameras is looked through. */
  camera: number;
  frame: number;
  flight: Flight | undefined;
  /** Height of the picture on the screen. */
  high: number;
  edit: Edit;
  looks: boolean;
  free: FreeLook;
  /** Takes what a drag does, in place of saving it. */
  onAim?: (aim: Aim) => void;
}

type Way = "turn" | "pan" | "roll";

/** Dragging, the wheel and keys over the picture: they move the camera, or look freely where keys or views lead it. */
export function useAim({ well, shot, camera, frame, flight, high, edit, looks, free, onAim }: Wanted) {
  const rig = cameraOf(shot.document, camera)?.rig;
  const round = roundRig(rig);
  const highDeg = shot.lens.high_deg;
  const still: Aim = { start_deg: 0, elevation_deg: 18, fill: 0.8 };
  const led = flight ? (aimAt(flight, camera, frame, shorterDeg(shot)) ?? still) : still;
  const saved: Aim = round ? { ...still, ...aimOf(round) } : led;
  const [dragged, setDragged] = useState<Aim | null>(null);
  const drag = useRef<{ x: number; y: number; from: Aim; way: Way } | null>(null);
  const fingers = useRef(new Map<number, { x: number; y: number }>());
  const pinch = useRef<{ apart: number; from: Aim } | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  const shown = dragged ?? free.aim ?? saved;
  // Letting go may come before the last move is drawn: what is saved is the newest wish, not the newest picture.
  const newest = useRef<Aim | null>(null);

  // The saved shot has caught up with the drag, so the drag's own aim is done, unless a hand is still at it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new revision, or the end of a gesture, ends it
  useEffect(() => {
    if (!drag.current && !pinch.current && rest.current === undefined) setDragged(null);
  }, [shot.revision, onAim === undefined]);
  // A drag that was taken as a gesture is not saved once more when it is let go.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the beginning or the end of a gesture ends it
  useEffect(() => {
    drag.current = null;
  }, [onAim === undefined]);

  const show = (to: Aim) => {
    newest.current = to;
    if (round) setDragged(to);
    else free.set(to);
    onAim?.(to);
  };
  const save = (to: Aim) => {
    if (onAim) onAim(to);
    else if (round) cameraEdit(shot, camera, edit)({ camera: { rig: onlyChanged(to, saved) } }, "the camera");
  };
  const moved = (from: Aim, way: Way, x: number, y: number): Aim => {
    if (way === "pan" && flight) return panned(from, flight, shorterDeg(shot), -x / high, y / high);
    if (way === "roll") return rolled(from, x * DEGREES_A_PIXEL);
    return turned(from, x * DEGREES_A_PIXEL, y * DEGREES_A_PIXEL);
  };
  useWheel(well, (event) => {
    if (!looks) return;
    const to = nearer(shown, Math.exp(-event.deltaY / 900));
    show(to);
    if (onAim) return;
    clearTimeout(rest.current);
    rest.current = setTimeout(() => {
      rest.current = undefined;
      save(to);
    }, WHEEL_REST_MS);
  });
  const onPointerDown = (event: PointerEvent) => {
    if ((event.button !== 0 && event.button !== 1) || !looks) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    if (fingers.current.size === 0) newest.current = null;
    fingers.current.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (fingers.current.size === 2) {
      // Two fingers change the distance, and no longer turn.
      pinch.current = { apart: apartOf(fingers.current), from: shown };
      drag.current = null;
      return;
    }
    const rolls = event.altKey && (!round || round.kind === "still");
    const way = event.shiftKey || event.button === 1 ? "pan" : rolls ? "roll" : "turn";
    drag.current = { x: event.clientX, y: event.clientY, from: shown, way };
  };
  const onPointerMove = (event: PointerEvent) => {
    if (fingers.current.has(event.pointerId))
      fingers.current.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (pinch.current) {
      show(nearer(pinch.current.from, apartOf(fingers.current) / pinch.current.apart));
      return;
    }
    if (!drag.current) return;
    const { x, y, from, way } = drag.current;
    show(moved(from, way, event.clientX - x, event.clientY - y));
  };
  const onPointerUp = (event: PointerEvent) => {
    fingers.current.delete(event.pointerId);
    if ((drag.current || pinch.current) && round && newest.current) save(newest.current);
    drag.current = null;
    pinch.current = null;
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Escape" && free.aim) {
      free.set(null);
      return;
    }
    if (event.ctrlKey || event.metaKey || !looks) return;
    const to = keyed(event, shown, moved, !round || round.kind === "still");
    if (!to) return;
    event.preventDefault();
    show(to);
    save(to);
  };
  const now = dragged ?? free.aim;
  const patch: Patch | undefined = now
    ? cameraPatch(shot, camera, { camera: { rig: round ? onlyChanged(now, saved) : stillOf(now) } })
    : undefined;
  const told = now ?? { ...saved, ...driven(shot, camera, led) };
  return { told, round, highDeg, patch, onPointerDown, onPointerMove, onPointerUp, onKeyDown };
}

/** How far two fingers are apart, at least a pixel. */
function apartOf(fingers: Map<number, { x: number; y: number }>): number {
  const [one, other] = [...fingers.values()];
  return other ? Math.max(Math.hypot(one.x - other.x, one.y - other.y), 1) : 1;
}

/** What lanes drive of the shot's own camera, as it is in the frame. */
function driven(shot: Shot, camera: number, led: Aim): Partial<Aim> {
  const drives = camera === 0 ? shot.document.lanes.map((lane) => lane.drive) : [];
  return {
    ...(drives.includes("rig:elevation") ? { elevation_deg: led.elevation_deg } : {}),
    ...(drives.includes("rig:fill") || drives.includes("rig:distance")
      ? { fill: led.fill, distance: undefined }
      : {}),
  };
}

/** Where a key takes the aim, or null when it is none of the viewfinder's. */
function keyed(
  event: KeyboardEvent,
  from: Aim,
  moved: (from: Aim, way: Way, x: number, y: number) => Aim,
  rolls: boolean,
): Aim | null {
  const by = event.shiftKey ? 10 : 2;
  const arrow = ARROWS[event.key];
  if (arrow && event.altKey) return moved(from, "pan", arrow[0] * by * 4, arrow[1] * by * 4);
  if (arrow) return turned(from, arrow[0] * by, arrow[1] * by);
  if (event.key === "+") return nearer(from, 1.05);
  if (event.key === "-") return nearer(from, 1 / 1.05);
  if (rolls && event.key === ",") return rolled(from, -by);
  if (rolls && event.key === ".") return rolled(from, by);
  return null;
}

function aimOf(rig: NonNullable<ReturnType<typeof roundRig>>): Partial<Aim> {
  const { start_deg, elevation_deg, fill, centre, distance } = rig;
  return {
    start_deg,
    elevation_deg,
    fill,
    centre,
    distance,
    ...(rig.kind === "still" ? { roll_deg: rig.roll_deg } : {}),
  };
}

/** What of an aim is another one, so that a drag saves no more than it did. */
function onlyChanged(to: Aim, from: Aim): Patch {
  const names = Object.keys(to) as (keyof Aim)[];
  const kept = (name: string) => name === "start_deg" || name === "elevation_deg" || name === "fill";
  return Object.fromEntries(
    names.filter((name) => kept(name) || to[name] !== from[name]).map((name) => [name, to[name]]),
  );
}

function shorterDeg(shot: Shot): number {
  return Math.min(shot.lens.high_deg, shot.lens.wide_deg);
}
