import { MaybeEntry, NumberEntry } from "../../../parts/entries/NumberEntry";
import type { RunLimits } from "./useCapture";

interface Props {
  limits: RunLimits;
  onChange: (limits: RunLimits) => void;
}

/** Limits of the next run: of time for a frame, and of tries. */
export function LimitsOfRun({ limits, onChange }: Props) {
  return (
    <div className="flex flex-wrap items-center gap-x-1.5 gap-y-1 text-small">
      At most
      <MaybeEntry
        label="Seconds for a frame"
        value={limits.frame_seconds}
        placeholder="600"
        above={0}
        max={86_400}
        width="4rem"
        onCommit={(frame_seconds) => onChange({ ...limits, frame_seconds })}
      />
      s and
      <NumberEntry
        label="Tries of a frame"
        value={limits.tries}
        min={1}
        max={20}
        whole
        width="3rem"
        onCommit={(tries) => onChange({ ...limits, tries })}
      />
      {limits.tries === 1 ? "try" : "tries"} a frame
    </div>
  );
}
