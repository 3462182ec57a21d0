import { Row } from "../../../../form/Row";
import { Choice } from "../../../../parts/entries/Choice";
import { fraction } from "../../../../parts/entries/fraction";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import type { BenchValue } from "../../context";

/** The length, in seconds or in frames; the other follows from the rate. */
export function LengthRows({ shot, edit }: Pick<BenchValue, "shot" | "edit">) {
  const { clock } = shot.document;
  const byFrames = clock.frames != null;
  const seconds = fraction(shot.terms.find((term) => term.name === "seconds")?.value ?? "1");
  const frames = shot.timing.motion;
  return (
    <>
      <Row name="Length in">
        <Choice
          label="Length in"
          value={byFrames ? "frames" : "seconds"}
          options={[
            { value: "seconds", label: "seconds" },
            { value: "frames", label: "frames" },
          ]}
          onChoose={(to) =>
            edit(
              { clock: to === "frames" ? { frames, seconds: null } : { seconds, frames: null } },
              `the length in ${to}`,
            )
          }
        />
      </Row>
      {byFrames ? (
        <Row name="Frames">
          <NumberEntry
            label="Length in frames"
            whole
            min={1}
            value={clock.frames ?? 1}
            onCommit={(to) => edit({ clock: { frames: to, seconds: null } }, "the number of frames")}
          />
        </Row>
      ) : (
        <Row name="Seconds">
          <NumberEntry
            label="Length in seconds"
            value={clock.seconds ?? 1}
            onCommit={(to) => edit({ clock: { seconds: to, frames: null } }, "the length")}
          />
        </Row>
      )}
    </>
  );
}
