import { type MouseEvent, type PointerEvent, type RefObject, useRef, useState } from "react";
import { targetName } from "../../../api/vocabulary";
import { type Dragged, NEAR, useDrag } from "../../../parts/hooks/useDrag";
import type { Lane } from "../lanes";
import {
  along,
  type Bezier,
  bezier,
  boundsIn,
  eased,
  handlesOut,
  type KeyAt,
  keysName,
  moved,
  sameKey,
  withKeyAt,
} from "./keys";
import type { RowsProps } from "./LaneRows";
import { curveOf, type Point, ROW, type Scale, stretchOf, TALL } from "./rows";
import { placeAt } from "./view";

interface Area {
  x: number;
  y: number;
  wide: number;
  high: number;
}

type Held =
  | { kind: "keys"; keys: KeyAt[]; lanes: Lane[] }
  | { kind: "handle"; at: KeyAt; second: boolean; lanes: Lane[] }
  | { kind: "box"; x: number; y: number; keep: KeyAt[] };

/** What the pointer does on the rows: moves keys, bends easings, draws round keys, adds one, or goes to a frame. */
export function useKeyDrag(
  props: RowsProps,
  box: RefObject<SVGSVGElement | null>,
  scales: Scale[],
  points: Point[],
) {
  const { shot, lanes, view, width, chosen, onChoose, onDraft, onSave, onFrame } = props;
  const latest = useRef<Lane[] | null>(null);
  const [area, setArea] = useState<Area | null>(null);

  const at = (event: MouseEvent) => {
    const corner = box.current?.getBoundingClientRect();
    return { x: event.clientX - (corner?.left ?? 0), y: event.clientY - (corner?.top ?? 0) };
  };
  const draft = (next: Lane[]) => {
    latest.current = next;
    onDraft(next);
  };

  const pressed = (event: PointerEvent): Held | null => {
    if (event.button !== 0) return null;
    latest.current = null;
    const mark = (event.target as Element).closest<SVGElement>("[data-key], [data-handle]");
    if (mark?.dataset.handle) {
      const key = { drive: mark.dataset.drive ?? "", key: Number(mark.dataset.of) };
      return { kind: "handle", at: key, second: mark.dataset.handle === "2", lanes };
    }
    if (!mark) return { kind: "box", ...at(event), keep: event.shiftKey ? chosen : [] };
    mark.focus();
    const key = { drive: mark.dataset.drive ?? "", key: Number(mark.dataset.key) };
    const keys = takenUp(chosen, key, event.shiftKey);
    onChoose(keys);
    return keys.length ? { kind: "keys", keys, lanes } : null;
  };

  const dragged = (held: Held, { dx, dy, moved: far, event }: Dragged) => {
    const { x, y } = at(event);
    if (held.kind === "handle") return draft(bent(held, x, y));
    if (!far) return;
    if (held.kind === "box") return drawRound(held, x, y);
    // A drag along one way alone does not shake the other.
    const right = Math.abs(dx) > NEAR ? dx : 0;
    const up = Math.abs(dy) > NEAR ? -dy : 0;
    const by = {
      frames: (right / width) * (view.to - view.from),
      heights: up / TALL,
      snap: !event.altKey,
    };
    draft(moved(shot, held.lanes, held.keys, by, boundsIn(props.drivables)));
  };

  const drawRound = (now: Extract<Held, { kind: "box" }>, x: number, y: number) => {
    const [left, top] = [Math.min(x, now.x), Math.min(y, now.y)];
    const drawn = { x: left, y: top, wide: Math.abs(x - now.x), high: Math.abs(y - now.y) };
    setArea(drawn);
    const within = points.filter(
      (p) => p.x >= left && p.x <= left + drawn.wide && p.y >= top && p.y <= top + drawn.high,
    );
    onChoose([...now.keep, ...within.map(({ drive, key }) => ({ drive, key }))]);
  };

  const released = (held: Held, { moved: far, event }: Dragged) => {
    setArea(null);
    if (held.kind === "box" && !far) {
      onChoose([]);
      onFrame(Math.floor(placeAt(at(event).x, view, width)));
    }
    if (latest.current && held.kind !== "box")
      onSave(
        latest.current,
        held.kind === "keys" ? keysName(held.keys) : `the easing of ${targetName(held.at.drive)}`,
      );
    latest.current = null;
  };
  const drag = useDrag<Held>({ start: pressed, move: dragged, end: released });

  /** Lanes with a handle of an easing drawn to a point. */
  const bent = (now: Extract<Held, { kind: "handle" }>, x: number, y: number): Lane[] => {
    const row = now.lanes.findIndex((lane) => lane.drive === now.at.drive);
    const lane = now.lanes[row];
    const handles = handlesOut(lane, now.at.key);
    const span = stretchOf(shot, lane, now.at.key, view, width, scales[row]);
    if (!handles || !span) return now.lanes;
    const across = (x - span.x1) / (span.x2 - span.x1 || 1);
    const along = (y - span.y1) / (span.y2 - span.y1 || -1);
    const next: Bezier = now.second
      ? [handles[0], handles[1], across, along]
      : [across, along, handles[2], handles[3]];
    return now.lanes.map((one) => (one === lane ? eased(lane, now.at.key, bezier(next)) : one));
  };

  const onDoubleClick = (event: MouseEvent) => {
    const { x, y } = at(event);
    const row = Math.floor(y / ROW);
    const lane = lanes[row];
    if (!lane || lane.keys.length === 0 || (event.target as Element).closest("[data-key]")) return;
    const place = along(shot, lane, curveOf(shot, lane)).placeAt(Math.floor(placeAt(x, view, width)));
    const next = withKeyAt(lane, place, scales[row].value(y));
    onSave(
      lanes.map((one) => (one === lane ? next : one)),
      `a key of ${targetName(lane.drive)}`,
    );
  };

  return { area, pointer: drag.handlers, onDoubleClick };
}

/** Keys that a press takes up: the one under it with all that are chosen, or it alone; shift adds it or lets it go. */
function takenUp(chosen: KeyAt[], key: KeyAt, shift: boolean): KeyAt[] {
  const known = chosen.some((one) => sameKey(one, key));
  if (!shift) return known ? chosen : [key];
  return known ? chosen.filter((one) => !sameKey(one, key)) : [...chosen, key];
}
