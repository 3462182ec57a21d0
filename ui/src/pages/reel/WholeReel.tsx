import { FormRows } from "../../form/FormRows";
import { CutLists } from "./CutLists";
import { FormatRows } from "./FormatRows";
import { LabelRows, MarkerRows, MarkRows, SoundRows } from "./ReelSettings";
import type { ReelData } from "./reelItems";
import { AsJson, Box } from "./sheetParts";
import type { ReelEdits } from "./useReel";

/** Rate, size, background and length of the reel, and what lies over all of it. */
export function WholeReel({ reel, edits, frame }: { reel: ReelData; edits: ReelEdits; frame: number }) {
  const { document } = reel;
  return (
    <Box name="The reel" about={reel.path}>
      <div>
        <FormRows form="reel" values={document} onSet={edits.change} />
      </div>
      <FormatRows reel={reel} edits={edits} />
      <CutLists reel={reel} />
      <SoundRows reel={reel} edits={edits} />
      <MarkerRows reel={reel} edits={edits} frame={frame} />
      <LabelRows reel={reel} edits={edits} />
      <MarkRows reel={reel} edits={edits} />
      <AsJson
        value={{
          labels: document.labels,
          mark: document.mark,
          sound: document.sound,
          loudness: document.loudness,
          limit: document.limit,
          markers: document.markers,
        }}
        name="Settings as JSON"
        onCommit={(value) => edits.change(value, "the labels or sound")}
      />
    </Box>
  );
}
