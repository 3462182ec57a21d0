import { Columns2, Group, Trash2 } from "lucide-react";
import { type ReelData, type Selection, selected, together } from "./reelItems";
import { Box } from "./sheetParts";
import type { ReelEdits } from "./useReel";

interface Props {
  reel: ReelData;
  edits: ReelEdits;
  selection: Selection;
  onSelect: (selection: Selection) => void;
  onRemove: (first: number, last: number) => void;
}

/** What can be made of several items that follow each other. */
export function SeveralSheet({ reel, edits, selection, onSelect, onRemove }: Props) {
  const [first, last] = selected(selection);
  const items = reel.items.slice(first, last + 1);
  const make = (kind: "layout" | "group") => {
    edits.setItems((all) => together(all, first, last, kind), kind === "layout" ? "the layout" : "the group");
    onSelect({ of: "item", item: first });
  };
  return (
    <Box name={`${items.length} items`} about={items.map((item) => item.name).join(", ")}>
      <div className="flex flex-col items-start gap-1.5">
        <button type="button" className="btn btn-sm" onClick={() => make("layout")}>
          <Columns2 size={15} aria-hidden /> Show side by side
        </button>
        <p className="quiet text-note">All at once, in sync: as a row, a grid or nested.</p>
        <button type="button" className="btn btn-sm" onClick={() => make("group")}>
          <Group size={15} aria-hidden /> Group
        </button>
        <p className="quiet text-note">One after another as now, repeated or fitted to a length as one.</p>
        <button type="button" className="btn btn-sm" onClick={() => onRemove(first, last)}>
          <Trash2 size={15} aria-hidden /> Remove {items.length} items
        </button>
      </div>
    </Box>
  );
}
