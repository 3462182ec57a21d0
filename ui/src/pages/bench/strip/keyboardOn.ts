import type { KeyboardEvent } from "react";
import { targetName } from "../../../api/vocabulary";
import { ARROWS } from "../../../parts/hooks/arrows";
import {
  type Bezier,
  bezier,
  boundsIn,
  eased,
  handlesOut,
  type KeyAt,
  keysName,
  moved,
  sameKey,
  without,
} from "./keys";
import type { RowsProps } from "./LaneRows";

/** How far a handle goes at a press, as a share of its stretch. */
const HANDLE_STEP = 0.02;

/** What the keyboard does on the rows: moves, chooses and removes keys, and bends easings. */
export function keyboardOn(props: RowsProps) {
  const { shot, lanes, chosen, onChoose, onSave } = props;

  const bend = (handle: SVGElement, [right, down]: [number, number], by: number) => {
    const of = { drive: handle.dataset.drive ?? "", key: Number(handle.dataset.of) };
    const lane = lanes.find((one) => one.drive === of.drive);
    const handles = lane && handlesOut(lane, of.key);
    if (!lane || !handles) return;
    const next: Bezier = [...handles];
    const first = handle.dataset.handle === "2" ? 2 : 0;
    next[first] += HANDLE_STEP * by * right;
    next[first + 1] -= HANDLE_STEP * by * down;
    onSave(
      lanes.map((one) => (one === lane ? eased(lane, of.key, bezier(next)) : one)),
      `the easing of ${targetName(of.drive)}`,
    );
  };

  /** What a key press does to a key of a lane; null where it is no affair of theirs. */
  const actOn = (key: KeyAt, event: KeyboardEvent): (() => void) | null => {
    const known = chosen.some((one) => sameKey(one, key));
    const keys = known ? chosen : [key];
    const arrow = ARROWS[event.key];
    if (arrow) {
      const by = event.shiftKey ? 10 : 1;
      const move = { frames: arrow[0] * by, heights: (-arrow[1] * by) / 100, snap: true };
      return () => {
        onChoose(keys);
        onSave(moved(shot, lanes, keys, move, boundsIn(props.drivables)), keysName(keys));
      };
    }
    switch (event.key) {
      case "Delete":
      case "Backspace":
        return () => {
          onChoose([]);
          onSave(without(lanes, keys), keysName(keys));
        };
      case " ":
      case "Enter":
        return () => onChoose(known ? chosen.filter((one) => !sameKey(one, key)) : [...chosen, key]);
      case "a":
        return event.ctrlKey || event.metaKey ? () => onChoose(allOf(key.drive)) : null;
      default:
        return null;
    }
  };
  const allOf = (drive: string): KeyAt[] =>
    (lanes.find((one) => one.drive === drive)?.keys ?? []).map((_, key) => ({ drive, key }));

  return (event: KeyboardEvent) => {
    if (event.key === "Escape") return onChoose([]);
    const target = event.target as Element;
    const handle = target.closest<SVGElement>("[data-handle]");
    const mark = target.closest<SVGElement>("[data-key]");
    const arrow = ARROWS[event.key];
    const act =
      handle && arrow
        ? () => bend(handle, arrow, event.shiftKey ? 10 : 1)
        : mark && actOn({ drive: mark.dataset.drive ?? "", key: Number(mark.dataset.key) }, event);
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
}
