import { ArrowLeft, ArrowRight, Copy, Trash2, Ungroup } from "lucide-react";
import { Framing } from "./Framing";
import { ItemRows, type SetValues } from "./ItemRows";
import { GroupParts, LayoutRows } from "./PartsRows";
import {
  apart,
  inserted,
  partsOf,
  type ReelData,
  type ReelFormat,
  type Selection,
  selected,
  withItem,
} from "./reelItems";
import { SeveralSheet } from "./SeveralSheet";
import { AsJson, Box, Tool } from "./sheetParts";
import { TransitionSheet } from "./TransitionSheet";
import type { ReelEdits } from "./useReel";
import { WholeReel } from "./WholeReel";

interface Props {
  reel: ReelData;
  edits: ReelEdits;
  selection: Selection;
  onMove: (from: number, to: number) => void;
  onRemove: (first: number, last: number) => void;
  frame: number;
  /** The format that is shown; none for the reel's own size. */
  format: ReelFormat | null;
  onSelect: (selection: Selection) => void;
}

/** What belongs to the selected item or transition, or to the reel as a whole. */
export function ReelSheet(props: Props) {
  const { reel, edits, selection, onMove, onRemove } = props;
  const number = selection.of === "reel" ? -1 : selection.item;
  const item = edits.items[number];
  if (selection.of === "reel" || !item) return <WholeReel reel={reel} edits={edits} frame={props.frame} />;
  if (selection.of === "transition") return <TransitionSheet reel={reel} edits={edits} number={number} />;
  const [first, last] = selected(selection);
  if (last > first) return <SeveralSheet {...props} />;
  const set: SetValues = (values, what) =>
    edits.setItems((all) => {
      const now = all[number];
      return now ? withItem(all, number, typeof values === "function" ? values(now) : values) : all;
    }, what);
  const shown = reel.items[number];
  const takeOut = (part: number) =>
    edits.setItems((all) => {
      const whole = all[number];
      const taken = whole && partsOf(whole)[part];
      if (!whole || !taken) return all;
      const left =
        whole.kind === "layout"
          ? { cells: whole.cells.filter((_, at) => at !== part) }
          : { items: partsOf(whole).filter((_, at) => at !== part) };
      return inserted(withItem(all, number, left), number + 1, [taken]);
    }, "the item taken out");
  return (
    <Box name={shown?.name ?? item.kind} about={`${item.kind}${shown?.source ? ` · ${shown.source}` : ""}`}>
      <div className="flex gap-1">
        <Tool label="Move left" disabled={number === 0} onPress={() => onMove(number, number - 1)}>
          <ArrowLeft size={15} aria-hidden />
        </Tool>
        <Tool
          label="Move right"
          disabled={number === edits.items.length - 1}
          onPress={() => onMove(number, number + 1)}
        >
          <ArrowRight size={15} aria-hidden />
        </Tool>
        <Tool
          label="Duplicate"
          onPress={() =>
            edits.setItems(
              (all) => [...all.slice(0, number + 1), item, ...all.slice(number + 1)],
              "the duplicate",
            )
          }
        >
          <Copy size={15} aria-hidden />
        </Tool>
        <Tool label="Remove" onPress={() => onRemove(number, number)}>
          <Trash2 size={15} aria-hidden />
        </Tool>
      </div>
      <Framing reel={reel} number={number} item={item} format={props.format} set={set} />
      {(item.kind === "layout" || item.kind === "group") && (
        <button
          type="button"
          className="btn btn-xs self-start"
          onClick={() => edits.setItems((all) => apart(all, number), "taking apart")}
        >
          <Ungroup size={14} aria-hidden /> Take apart
        </button>
      )}
      {item.kind === "layout" && (
        <LayoutRows item={item} parts={shown?.parts ?? []} set={set} onTakeOut={takeOut} />
      )}
      {item.kind !== "layout" && (
        <ItemRows item={item} passes={shown?.passes as [string, string][]} set={set} />
      )}
      {item.kind === "group" && (
        <GroupParts item={item} parts={shown?.parts ?? []} set={set} onTakeOut={takeOut} />
      )}
      <AsJson value={item} onCommit={(value) => set(value, "the item")} />
    </Box>
  );
}
