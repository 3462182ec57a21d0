import { type KeyboardEvent, type PointerEvent, type RefObject, useRef, useState } from "react";
import type { Patch, Shot } from "../../../api/client";
import { ARROWS } from "../../../parts/hooks/arrows";
import { useChange } from "../../../parts/hooks/useChange";
import { useDrag } from "../../../parts/hooks/useDrag";
import { useWheel } from "../../../parts/hooks/useWheel";
import { shortcutOf } from "../../../parts/shell/shortcuts";
import type { Edit } from "../edit";
import { cameraOf, roundRig } from "../rigs";
import { type Aim, aimAt, nearer, panned, rolled, turned } from "./aim";
import { cameraEdit, cameraPatch } from "./cameraEdit";
import { type FreeLook, stillOf } from "./useFreeLook";
import type { PathFigures } from "./usePathFigures";

const DEGREES_A_PIXEL = 0.4;
const WHEEL_REST_MS = 350;

interface Wanted {
  well: RefObject<HTMLDivElement | null>;
  shot: Shot;
  /** Which of the shot's cameras is looked through. */
  camera: number;
  frame: number;
  pathFigures: PathFigures | undefined;
  /** Height of the picture on the screen. */
  high: number;
  edit: Edit;
  looks: boolean;
  free: FreeLook;
  /** Takes what a drag does, in place of saving it. */
  onAim?: (aim: Aim) => void;
}

type Gesture = "turn" | "pan" | "roll";

/** The subject of a drag: the aim at its start, and the change that it makes. */
interface Held {
  from: Aim;
  gesture: Gesture;
}

/** Dragging, the wheel and keys over the picture: they move the camera, or look freely where keys or views lead it. */
export function useAim({ well, shot, camera, frame, pathFigures, high, edit, looks, free, onAim }: Wanted) {
  const rig = cameraOf(shot.document, camera)?.rig;
  const round = roundRig(rig);
  const highDeg = shot.lens.high_deg;
  const led = pathFigures ? aimAt(pathFigures, camera, frame, shorterDeg(shot)) : null;
  const saved = round ? aimOf(round) : led;
  const [dragged, setDragged] = useState<Aim | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  /** None before it is known where keys or views have led the camera. */
  const shown = dragged ?? free.aim ?? saved;
  // Letting go may come before the last move is drawn: what is saved is the newest wish, not the newest picture.
  const newest = useRef<Aim | null>(null);

  const show = (to: Aim) => {
    newest.current = to;
    if (round) setDragged(to);
    else free.set(to);
    onAim?.(to);
  };
  const save = (to: Aim) => {
    if (onAim) onAim(to);
    else if (round)
      cameraEdit(shot, camera, edit)({ camera: { rig: onlyChanged(to, saved ?? to) } }, "the camera");
  };
  const moved = (from: Aim, gesture: Gesture, x: number, y: number): Aim => {
    if (gesture === "pan" && pathFigures)
      return panned(from, pathFigures, shorterDeg(shot), -x / high, y / high);
    if (gesture === "roll") return rolled(from, x * DEGREES_A_PIXEL);
    return turned(from, x * DEGREES_A_PIXEL, y * DEGREES_A_PIXEL);
  };
  useWheel(well, (event) => {
    if (!looks || !shown) return;
    const to = nearer(shown, Math.exp(-event.deltaY / 900));
    show(to);
    if (onAim) return;
    clearTimeout(rest.current);
    rest.current = setTimeout(() => {
      rest.current = undefined;
      save(to);
    }, WHEEL_REST_MS);
  });
  const pressed = (event: PointerEvent): Held | null => {
    if ((event.button !== 0 && event.button !== 1) || !looks || !shown) return null;
    newest.current = null;
    const rolls = event.altKey && (!round || round.kind === "still");
    return { from: shown, gesture: event.shiftKey || event.button === 1 ? "pan" : rolls ? "roll" : "turn" };
  };
  const released = () => {
    if (round && newest.current) save(newest.current);
  };
  const drag = useDrag<Held, Aim | null>({
    start: pressed,
    move: ({ from, gesture }, { dx, dy }) => show(moved(from, gesture, dx, dy)),
    end: released,
    // Two fingers change the distance, and no longer turn.
    pinch: {
      start: () => newest.current ?? shown,
      move: (from, by) => from && show(nearer(from, by)),
      end: released,
    },
  });
  // The saved shot has caught up with the drag, so the drag's own aim is done, unless a hand is still at it.
  useChange(`${shot.revision} ${onAim === undefined}`, () => {
    if (!drag.going() && rest.current === undefined) setDragged(null);
  });
  // A drag that was taken as a gesture is not saved once more when it is let go.
  useChange(onAim === undefined, () => drag.drop());
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Escape" && free.aim) {
      free.set(null);
      return;
    }
    if (event.ctrlKey || event.metaKey || !looks || !shown) return;
    const to = keyed(event, shown, moved, !round || round.kind === "still");
    if (!to) return;
    event.preventDefault();
    show(to);
    save(to);
  };
  const now = dragged ?? free.aim;
  const patch: Patch | undefined = now
    ? cameraPatch(shot, camera, { camera: { rig: round ? onlyChanged(now, saved ?? now) : stillOf(now) } })
    : undefined;
  const visible = now ?? (saved && { ...saved, ...driven(shot, camera, led) });
  return { shown: visible, round, highDeg, patch, pointer: drag.handlers, onKeyDown };
}

/** The values of the shot's own camera that lanes drive, in the frame. */
function driven(shot: Shot, camera: number, led: Aim | null): Partial<Aim> {
  if (!led) return {};
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
  moved: (from: Aim, gesture: Gesture, x: number, y: number) => Aim,
  rolls: boolean,
): Aim | null {
  const by = event.shiftKey ? 10 : 2;
  const arrow = ARROWS[event.key];
  if (arrow && event.altKey) return moved(from, "pan", arrow[0] * by * 4, arrow[1] * by * 4);
  if (arrow) return turned(from, arrow[0] * by, arrow[1] * by);
  switch (shortcutOf(event, "nearer", "farther", "rollLeft", "rollRight")) {
    case "nearer":
      return nearer(from, 1.05);
    case "farther":
      return nearer(from, 1 / 1.05);
    case "rollLeft":
      return rolls ? rolled(from, -by) : null;
    case "rollRight":
      return rolls ? rolled(from, by) : null;
    default:
      return null;
  }
}

function aimOf(rig: NonNullable<ReturnType<typeof roundRig>>): Aim {
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
