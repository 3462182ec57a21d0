import { Choice } from "../../../parts/Choice";
import type { SheetProps } from "../Sheet";
import { PathRows } from "./PathRows";
import { RoundRows } from "./RoundRows";
import { Row } from "./Row";

/** How the camera moves. */
export function RigSheet({ shot, edit, onRig }: SheetProps) {
  const rig = shot.document.camera?.rig;
  if (!rig) return null;
  return (
    <>
      <Row name="Camera" hint="Another kind begins from how the camera moves now.">
        <Choice
          label="How the camera moves"
          value={rig.kind}
          options={[
            { value: "still", label: "stands" },
            { value: "orbit", label: "goes round" },
            { value: "path", label: "flies" },
          ]}
          onChoose={onRig}
        />
      </Row>
      {rig.kind === "path" ? (
        <PathRows rig={rig} edit={edit} />
      ) : (
        <RoundRows shot={shot} rig={rig} edit={edit} />
      )}
    </>
  );
}
