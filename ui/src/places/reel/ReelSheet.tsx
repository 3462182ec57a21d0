import { ArrowLeft, ArrowRight, Copy, Trash2 } from "lucide-react";
import { Length, PlayedRows, TitleRows } from "./ItemRows";
import { JointSheet } from "./JointSheet";
import { type ReelData, type Selection, withItem } from "./reelItems";
import { AsJson, Box, Tool } from "./sheetParts";
import type { ReelEdits } from "./useReel";
import { WholeReel } from "./WholeReel";

interface Props {
  reel: ReelData;
  edits: ReelEdits;
  selection: Selection;
  onMove: (from: number, to: number) => void;
  onRemove: (item: number) => void;
}

/** What belongs to the selected item or joint, or to the reel as a whole. */
export function ReelSheet({ reel, edits, selection, onMove, onRemove }: Props) {
  const number = selection.of === "reel" ? -1 : selection.item;
  const item = edits.items[number];
  if (selection.of === "reel" || !item) return <WholeReel reel={reel} edits={edits} />;
  if (selection.of === "joint") return <JointSheet reel={reel} edits={edits} number={number} />;
  const set = (values: Record<string, unknown>, what: string) =>
    edits.setItems((all) => withItem(all, number, values), what);
  const shown = reel.items[number];
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
        <Tool label="Remove" onPress={() => onRemove(number)}>
          <Trash2 size={15} aria-hidden />
        </Tool>
      </div>
      {item.kind === "title" && <TitleRows item={item} set={set} />}
      {"speed" in item && item.kind !== "group" && item.kind !== "reel" && (
        <PlayedRows item={item} set={set} />
      )}
      {(item.kind === "gap" || item.kind === "group" || item.kind === "layout") && (
        <Length item={item} set={set} empty="its own" />
      )}
      <AsJson value={item} onCommit={(value) => set(value, "the item")} />
    </Box>
  );
}
