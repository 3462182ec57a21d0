import { Row } from "../../../../form/Row";
import { fraction } from "../../../../parts/entries/fraction";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { count, short } from "../../../../parts/format";
import type { BenchValue } from "../../context";

/** Where the motion ends, and how fast it goes. */
export function MotionRows({ shot, edit, onTerm }: Pick<BenchValue, "shot" | "edit" | "onTerm">) {
  const { clock } = shot.document;
  const { motion, own_steps, steps } = shot.timing;
  const { ending } = shot;
  const seconds = shot.terms.find((term) => term.name === "seconds")?.value ?? "1";
  const own = clock.retimed_from ?? motion;
  return (
    <>
      {ending && ending.frames !== motion && (
        <Row name="End" hint="The last key of any lane sets the length.">
          <button
            type="button"
            className="btn btn-sm font-normal"
            onClick={() => edit(ending.patch, "ending with the motion")}
          >
            End with the motion, {count(ending.frames, "frame")}
          </button>
        </Row>
      )}
      <Row
        name="Retime motion"
        hint={
          own === motion
            ? "Captures the same motion with more or fewer frames: 20s, 1:30, 480f."
            : `${count(own, "frame")} of the original motion over ${motion.toLocaleString("en")}: ${short(own_steps / steps)} × its speed.`
        }
      >
        <TextEntry
          label="Retime to"
          value={`${short(fraction(seconds), 4)} s`}
          width="6.2rem"
          onCommit={(text) => onTerm({ term: "retimed", text })}
        />
        {own !== motion && (
          <button
            type="button"
            className="btn btn-xs font-normal"
            onClick={() => onTerm({ term: "retimed", text: `${own}f` })}
          >
            original length
          </button>
        )}
      </Row>
    </>
  );
}
