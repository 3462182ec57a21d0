import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import { CutLists } from "./CutLists";
import { LabelRows, MarkerRows, MarkRows, SoundRows } from "./OverAll";
import type { ReelData } from "./reelItems";
import { AsJson, Box, Row } from "./sheetParts";
import type { ReelEdits } from "./useReel";

/** Rate, size, background and length of the reel, and what lies over all of it. */
export function WholeReel({ reel, edits, frame }: { reel: ReelData; edits: ReelEdits; frame: number }) {
  const { document } = reel;
  const sizes = { width: document.width ?? 1920, height: document.height ?? 1080 };
  return (
    <Box name="The reel" about={reel.path}>
      <Row name="Rate">
        <TextEntry
          label="Rate of the reel"
          width="6rem"
          value={document.rate ?? "24"}
          onCommit={(rate) => edits.change({ rate }, "the rate")}
        />
        <span className="quiet text-note">fps</span>
      </Row>
      <Row name="Size">
        {(["width", "height"] as const).map((side) => (
          <NumberEntry
            key={side}
            label={side === "width" ? "Width" : "Height"}
            whole
            width="5rem"
            min={16}
            max={16384}
            value={sizes[side]}
            onCommit={(value) => edits.change({ [side]: value }, "the size")}
          />
        ))}
      </Row>
      <Row name="Background">
        <TextEntry
          label="Background of the reel"
          width="7rem"
          value={document.background ?? ""}
          onCommit={(background) => edits.change({ background }, "the background")}
        />
      </Row>
      <Row name="Fit to">
        <TextEntry
          label="Length of the reel"
          width="6rem"
          value={document.seconds ? `${document.seconds} s` : ""}
          placeholder="its own"
          onCommit={(text) =>
            edits.change({ seconds: text ? Number.parseFloat(text) : null, frames: null }, "the length")
          }
        />
        <span className="quiet text-note">12 s</span>
      </Row>
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
        name="These as JSON"
        onCommit={(value) => edits.change(value, "the labels or sound")}
      />
    </Box>
  );
}
