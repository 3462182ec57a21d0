import type { SheetProps } from "../Sheet";
import { ChoiceRow } from "./ChoiceRow";
import { PathRows } from "./PathRows";
import { RoundRows } from "./RoundRows";

/** How the camera moves. */
export function RigSheet({ shot, edit, onRig }: SheetProps) {
  const rig = shot.document.camera?.rig;
  if (!rig) return null;
  return (
    <>
      <ChoiceRow
        name="Camera"
        hint="Another kind begins from how the camera moves now."
        label="How the camera moves"
        value={rig.kind}
        options={[
          { value: "still", label: "stands" },
          { value: "orbit", label: "goes round" },
          { value: "path", label: "flies" },
        ]}
        onChoose={onRig}
      />
      {rig.kind === "path" ? (
        <PathRows rig={rig} edit={edit} />
      ) : (
        <RoundRows shot={shot} rig={rig} edit={edit} />
      )}
    </>
  );
}
