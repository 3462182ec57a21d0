import { sourceKind } from "../../../../api/vocabulary";
import { FormRows } from "../../../../form/FormRows";
import { useBench } from "../../context";
import { LengthRows } from "./LengthRows";
import { LikeRow } from "./LikeRow";
import { MotionRows } from "./MotionRows";
import { ShownRow } from "./ShownRow";

/** Rate, length and motion, which frames are shown, and how all of it was worked out. */
export function ClockSheet() {
  const { shot, edit, onTerm } = useBench();
  const { timing } = shot;
  return (
    <>
      <FormRows
        form="clock"
        values={shot.document}
        known={{ blurs: sourceKind(shot.document.source.kind)?.blurs ?? false }}
        special={{
          length: () => <LengthRows shot={shot} edit={edit} />,
          motion: () => <MotionRows shot={shot} edit={edit} onTerm={onTerm} />,
          like: () => <LikeRow shot={shot} edit={edit} />,
          shown: () => <ShownRow shot={shot} edit={edit} />,
        }}
        onSet={edit}
      />
      <h3 className="mb-1 mt-4 text-small font-semibold">Derivation</h3>
      <ul className="figures flex flex-col gap-1 text-small">
        {timing.reasons.map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
        <li>sound: {timing.sound}</li>
      </ul>
    </>
  );
}
