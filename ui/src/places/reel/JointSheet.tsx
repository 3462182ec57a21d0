import { FormRows } from "../../form/FormRows";
import { type Joint, type ReelData, withJoint } from "./reelItems";
import { Box } from "./sheetParts";
import type { ReelEdits } from "./useReel";

const USUAL_FRAMES = 12;

/** How one item goes over into the next. */
export function JointSheet({ reel, edits, number }: { reel: ReelData; edits: ReelEdits; number: number }) {
  const joint = edits.items[number]?.joint ?? {};
  const names = [reel.items[number]?.name, reel.items[number + 1]?.name];
  return (
    <Box name="Joint" about={`${names[0]} → ${names[1]}`}>
      <div>
        <FormRows
          form="joint"
          values={joint}
          known={{ seconds: ((joint.frames ?? 0) / reel.rate).toFixed(2) }}
          onSet={(values: Partial<Joint>) =>
            edits.setItems(
              (all) => withJoint(all, number, { ...values, ...lasting(values, joint) }),
              "the joint",
            )
          }
        />
      </div>
    </Box>
  );
}

/** A cut takes no frames, and any other kind some. */
function lasting(values: Partial<Joint>, before: Partial<Joint>): Partial<Joint> {
  if (!values.kind) return {};
  return { frames: values.kind === "cut" ? 0 : before.frames || USUAL_FRAMES };
}
