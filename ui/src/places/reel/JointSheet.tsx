import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import { type ReelData, withJoint } from "./reelItems";
import { Box, Choice, Row } from "./sheetParts";
import type { ReelEdits } from "./useReel";

/** How one item goes over into the next. */
export function JointSheet({ reel, edits, number }: { reel: ReelData; edits: ReelEdits; number: number }) {
  const joint = edits.items[number]?.joint ?? {};
  const set = (values: Parameters<typeof withJoint>[2]) =>
    edits.setItems((all) => withJoint(all, number, values), "the joint");
  const kind = joint.kind ?? "cut";
  const names = [reel.items[number]?.name, reel.items[number + 1]?.name];
  return (
    <Box name="Joint" about={`${names[0]} → ${names[1]}`}>
      <Row name="Kind">
        <Choice
          label="Kind of joint"
          value={kind}
          options={{
            cut: "cut",
            "cross-fade": "cross-fade",
            colour: "through a colour",
            wipe: "wipe",
            slide: "slide",
          }}
          onPick={(next) => set({ kind: next, frames: next === "cut" ? 0 : joint.frames || 12 })}
        />
      </Row>
      {kind !== "cut" && (
        <Row name="Frames">
          <NumberEntry
            label="Frames of the joint"
            whole
            width="4.5rem"
            min={1}
            max={100000}
            value={joint.frames ?? 0}
            onCommit={(frames) => set({ frames })}
          />
          <span className="quiet text-note">{((joint.frames ?? 0) / reel.rate).toFixed(2)} s</span>
        </Row>
      )}
      {kind === "colour" && (
        <Row name="Colour">
          <TextEntry
            label="Colour of the joint"
            width="6rem"
            value={joint.colour ?? "#000000"}
            onCommit={(colour) => set({ colour })}
          />
        </Row>
      )}
      {(kind === "wipe" || kind === "slide") && (
        <Row name="Towards">
          <Choice
            label="Direction"
            value={joint.towards ?? "left"}
            options={{ left: "left", right: "right", up: "up", down: "down" }}
            onPick={(towards) => set({ towards })}
          />
        </Row>
      )}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={joint.in_step ?? false}
          onChange={(event) => set({ in_step: event.target.checked })}
        />
        In step: the motion goes on, only the look changes
      </label>
    </Box>
  );
}
