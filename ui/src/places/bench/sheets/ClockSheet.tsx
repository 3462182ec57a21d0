import { fraction } from "../../../parts/fraction";
import { Presets } from "../../../parts/Presets";
import { TextEntry } from "../../../parts/TextEntry";
import { useBench } from "../context";
import { ChoiceRow } from "./ChoiceRow";
import { LikeRow } from "./LikeRow";
import { MotionRows } from "./MotionRows";
import { NumberRow } from "./NumberRow";
import { Row } from "./Row";
import { ShownRows } from "./ShownRows";

const USUAL = ["12", "24", "25", "30", "50", "60", "24000/1001", "30000/1001"];

export function ClockSheet() {
  const { shot, edit, onTerm } = useBench();
  const { clock } = shot.document;
  const { reckoning } = shot;
  const byFrames = clock.frames != null;
  const length = (to: "frames" | "seconds") => {
    const seconds = fraction(shot.terms.find((term) => term.name === "seconds")?.value ?? "1");
    return to === "frames"
      ? { clock: { frames: reckoning.motion, seconds: null } }
      : { clock: { seconds, frames: null } };
  };
  return (
    <>
      <Row name="Rate" unit="fps">
        <TextEntry
          label="Rate"
          width="8.5rem"
          value={clock.rate}
          className="entry"
          onCommit={(rate) => edit({ clock: { rate } }, "the rate")}
        />
      </Row>
      <Presets
        values={USUAL}
        current={clock.rate}
        className="mb-3 pl-label"
        onChoose={(rate) => edit({ clock: { rate } }, "the rate")}
      />
      <ChoiceRow
        name="Length in"
        label="Length in"
        value={byFrames ? "frames" : "seconds"}
        options={[
          { value: "seconds", label: "seconds" },
          { value: "frames", label: "frames" },
        ]}
        onChoose={(to) => edit(length(to), `the length in ${to}`)}
      />
      {byFrames ? (
        <NumberRow
          name="Frames"
          label="Length in frames"
          whole
          min={1}
          value={clock.frames ?? 1}
          onCommit={(frames) => edit({ clock: { frames, seconds: null } }, "the number of frames")}
        />
      ) : (
        <NumberRow
          name="Seconds"
          label="Length in seconds"
          value={clock.seconds ?? 1}
          onCommit={(seconds) => edit({ clock: { seconds, frames: null } }, "the length")}
        />
      )}
      <ChoiceRow
        name="Span"
        hint={
          clock.span === "ends"
            ? "First and last frame are both shown, for a video that plays once."
            : "The end equals the start and is left out, for a video that repeats."
        }
        label="Span"
        value={clock.span}
        options={[
          { value: "loop", label: "loop" },
          { value: "ends", label: "both ends" },
        ]}
        onChoose={(span) => edit({ clock: { span } }, "the span")}
      />
      <MotionRows shot={shot} edit={edit} onTerm={onTerm} />
      <LikeRow shot={shot} edit={edit} />
      <ShownRows shot={shot} edit={edit} />
      <h3 className="mb-1 mt-4 text-small font-semibold">Derivation</h3>
      <ul className="figures flex flex-col gap-1 text-small">
        {reckoning.reasons.map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
        <li>sound: {reckoning.sound}</li>
      </ul>
    </>
  );
}
