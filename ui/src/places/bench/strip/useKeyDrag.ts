import { type MouseEvent, type PointerEvent, type RefObject, useRef, useState } from "react";
import { targetName } from "../../../api/vocabulary";
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

/** So many pixels make a drag of a press. */
const NEAR = 4;

interface Area {
  x: number;
  y: number;
  wide: number;
  high: number;
}

type Drag =
  | { kind: "keys"; x: number; y: number; keys: KeyAt[]; lanes: Lane[]; gone: boolean }
  | { kind: "handle"; at: KeyAt; second: boolean; lanes: Lane[] }
  | { kind: "box"; x: number; y: number; keep: KeyAt[]; gone: boolean };

/** What the pointer does on the rows: moves keys, bends easings, draws round keys, adds one, or goes to a frame. */
export function useKeyDrag(
  props: RowsProps,
  box: RefObject<SVGSVGElement | null>,
  scales: Scale[],
  points: Point[],
) {
  const { shot, lanes, view, width, chosen, onChoose, onDraft, onSave, onFrame } = props;
  const drag = useRef<Drag | null>(null);
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

  const onPointerDown = (event: PointerEvent) => {
    if (event.button !== 0) return;
    box.current?.setPointerCapture(event.pointerId);
    const mark = (event.target as Element).closest<SVGElement>("[data-key], [data-handle]");
    const point = at(event);
    if (mark?.dataset.handle) {
      const key = { drive: mark.dataset.drive ?? "", key: Number(mark.dataset.of) };
      drag.current = { kind: "handle", at: key, second: mark.dataset.handle === "2", lanes };
    } else if (mark) {
      mark.focus();
      const key = { drive: mark.dataset.drive ?? "", key: Number(mark.dataset.key) };
      const keys = takenUp(chosen, key, event.shiftKey);
      onChoose(keys);
      if (keys.length) drag.current = { kind: "keys", ...point, keys, lanes, gone: false };
    } else {
      drag.current = { kind: "box", ...point, keep: event.shiftKey ? chosen : [], gone: false };
    }
  };

  const onPointerMove = (event: PointerEvent) => {
    const now = drag.current;
    if (!now) return;
    const { x, y } = at(event);
    if (now.kind === "handle") return draft(bent(now, x, y));
    // A drag along one way alone does not shake the other.
    const right = Math.abs(x - now.x) > NEAR ? x - now.x : 0;
    const up = Math.abs(y - now.y) > NEAR ? now.y - y : 0;
    now.gone ||= right !== 0 || up !== 0;
    if (!now.gone) return;
    if (now.kind === "box") return drawRound(now, x, y);
    const by = {
      frames: (right / width) * (view.to - view.from),
      heights: up / TALL,
      snap: !event.altKey,
    };
    draft(moved(shot, now.lanes, now.keys, by, boundsIn(props.drivables)));
  };

  const drawRound = (now: Extract<Drag, { kind: "box" }>, x: number, y: number) => {
    const [left, top] = [Math.min(x, now.x), Math.min(y, now.y)];
    const drawn = { x: left, y: top, wide: Math.abs(x - now.x), high: Math.abs(y - now.y) };
    setArea(drawn);
    const within = points.filter(
      (p) => p.x >= left && p.x <= left + drawn.wide && p.y >= top && p.y <= top + drawn.high,
    );
    onChoose([...now.keep, ...within.map(({ drive, key }) => ({ drive, key }))]);
  };

  const onPointerUp = (event: PointerEvent) => {
    const now = drag.current;
    drag.current = null;
    setArea(null);
    if (now?.kind === "box" && !now.gone) {
      onChoose([]);
      onFrame(Math.floor(placeAt(at(event).x, view, width)));
    }
    if (latest.current && now && now.kind !== "box")
      onSave(
        latest.current,
        now.kind === "keys" ? keysName(now.keys) : `the easing of ${targetName(now.at.drive)}`,
      );
    latest.current = null;
  };

  /** Lanes with a handle of an easing drawn to a point. */
  const bent = (now: Extract<Drag, { kind: "handle" }>, x: number, y: number): Lane[] => {
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
    if (!lane || lane.follows != null || (event.target as Element).closest("[data-key]")) return;
    const place = along(shot, lane, curveOf(shot, lane)).placeAt(Math.floor(placeAt(x, view, width)));
    const next = withKeyAt(lane, place, scales[row].value(y));
    onSave(
      lanes.map((one) => (one === lane ? next : one)),
      `a key of ${targetName(lane.drive)}`,
    );
  };

  return { area, onPointerDown, onPointerMove, onPointerUp, onPointerCancel: onPointerUp, onDoubleClick };
}

/** Keys that a press takes up: the one under it with all that are chosen, or it alone; shift adds it or lets it go. */
function takenUp(chosen: KeyAt[], key: KeyAt, shift: boolean): KeyAt[] {
  const known = chosen.some((one) => sameKey(one, key));
  if (!shift) return known ? chosen : [key];
  return known ? chosen.filter((one) => !sameKey(one, key)) : [...chosen, key];
}
