import { sourceKind } from "../../../api/vocabulary";
import { fraction } from "../../../parts/fraction";
import { Presets } from "../../../parts/Presets";
import { TextEntry } from "../../../parts/TextEntry";
import { count, short } from "../../../parts/words";
import type { BenchValue } from "../context";
import { ChoiceRow } from "./ChoiceRow";
import { Row } from "./Row";

const ANGLES = ["0", "90°", "180°", "360°"];

/** Where the motion ends, how fast it goes, and how long each frame looks. */
export function MotionRows({ shot, edit, onTerm }: Pick<BenchValue, "shot" | "edit" | "onTerm">) {
  const { clock, source } = shot.document;
  const { motion, own_steps, steps } = shot.reckoning;
  const { ending } = shot;
  const seconds = shot.terms.find((term) => term.name === "seconds")?.value ?? "1";
  const own = clock.retimed_from ?? motion;
  const shutter = clock.shutter;
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
        name="Retime"
        hint={
          own === motion
            ? "Stretches the same motion to another length: 20s, 1:30, 480f."
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
      {sourceKind(source.kind)?.blurs && (
        <>
          <Row
            name="Shutter"
            hint="Exposure time per frame: an angle, a fraction, or seconds such as 1/48 s."
          >
            <TextEntry
              label="Shutter"
              value={shutter}
              width="4.6rem"
              onCommit={(to) => edit({ clock: { shutter: to } }, "the shutter")}
            />
          </Row>
          <Presets
            values={ANGLES}
            current={shutter}
            named={(angle) => (angle === "0" ? "closed" : angle)}
            className="mb-2.5 pl-label"
            onChoose={(to) => edit({ clock: { shutter: to } }, "the shutter")}
          />
          {shutter !== "0" && (
            <ChoiceRow
              name="Alignment"
              label="Shutter alignment"
              value={clock.shutter_sits}
              options={[
                { value: "leading", label: "after", hint: "It opens at the frame's instant" },
                { value: "centred", label: "around", hint: "The instant lies in its middle" },
                { value: "trailing", label: "before", hint: "It closes at the frame's instant" },
              ]}
              onChoose={(shutter_sits) => edit({ clock: { shutter_sits } }, "where the shutter is open")}
            />
          )}
        </>
      )}
    </>
  );
}
