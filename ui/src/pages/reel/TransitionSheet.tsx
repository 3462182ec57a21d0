import { FormRows } from "../../form/FormRows";
import { type ReelData, type Transition, withTransition } from "./reelItems";
import { Box } from "./sheetParts";
import type { ReelEdits } from "./useReel";

const USUAL_FRAMES = 12;

/** How one item goes over into the next. */
export function TransitionSheet({
  reel,
  edits,
  number,
}: {
  reel: ReelData;
  edits: ReelEdits;
  number: number;
}) {
  const transition = edits.items[number]?.transition ?? {};
  const names = [reel.items[number]?.name, reel.items[number + 1]?.name];
  return (
    <Box name="Transition" about={`${names[0]} → ${names[1]}`}>
      <div>
        <FormRows
          form="transition"
          values={transition}
          known={{ seconds: ((transition.frames ?? 0) / reel.rate).toFixed(2) }}
          onSet={(values: Partial<Transition>) =>
            edits.setItems(
              (all) => withTransition(all, number, { ...values, ...lasting(values, transition) }),
              "the transition",
            )
          }
        />
      </div>
    </Box>
  );
}

/** A cut takes no frames, and any other kind some. */
function lasting(values: Partial<Transition>, before: Partial<Transition>): Partial<Transition> {
  if (!values.kind) return {};
  return { frames: values.kind === "cut" ? 0 : before.frames || USUAL_FRAMES };
}
