import type { Shot } from "../../../api/client";
import { NumberEntry } from "../../../parts/NumberEntry";
import type { Edit } from "../edit";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";
import { Pair } from "./Pair";
import { Row } from "./Row";

/** Which frames of the motion are shown, how they are played, and how their files are numbered. */
export function ShownRows({ shot, edit }: { shot: Shot; edit: Edit }) {
  const { clock, names } = shot.document;
  const { motion } = shot.reckoning;
  const every = clock.every;
  const put = (values: Partial<typeof clock>, what: string) => edit({ clock: values }, what);
  return (
    <>
      <h3 className="mb-1.5 mt-4 text-[13px] font-semibold">Shown of it</h3>
      <Row name="Frames">
        <Pair
          whole
          width="4.6rem"
          first={{
            label: "First frame shown",
            min: 0,
            max: clock.last ?? motion - 1,
            value: clock.first,
            onCommit: (first) => put({ first }, "the first frame"),
          }}
          word="to"
          second={{
            label: "Last frame shown",
            min: clock.first,
            max: motion - 1,
            value: clock.last ?? motion - 1,
            onCommit: (last) => put({ last: last === motion - 1 ? null : last }, "the last frame"),
          }}
        />
      </Row>
      <NumberRow
        name="Every"
        unit={every === 1 ? "frame" : "frames, one"}
        label="Every so many frames"
        whole
        min={1}
        value={every}
        width="3.6rem"
        onCommit={(to) => put({ every: to }, "the step")}
      />
      {every > 1 && (
        <ChoiceRow
          name="Played"
          label="Played"
          value={clock.play}
          options={[
            { value: "pace", label: "at its pace", hint: "The motion keeps its speed, at a lower rate" },
            { value: "rate", label: "at full rate", hint: "The motion goes faster, at the same rate" },
          ]}
          onChoose={(play) => put({ play }, "how picked frames are played")}
        />
      )}
      <NumberRow
        name="Speed"
        unit="× as captured"
        label="Speed of playing"
        min={0.001}
        max={1000}
        step={0.1}
        value={clock.speed}
        width="4.6rem"
        onCommit={(speed) => put({ speed }, "the speed")}
      />
      <Row name="Held" hint="Frames that stand still before and after the motion.">
        <Pair
          whole
          min={0}
          width="4.6rem"
          first={{
            label: "Frames held at the start",
            value: clock.hold_start,
            onCommit: (hold_start) => put({ hold_start }, "the hold at the start"),
          }}
          word="and"
          second={{
            label: "Frames held at the end",
            value: clock.hold_end,
            onCommit: (hold_end) => put({ hold_end }, "the hold at the end"),
          }}
        />
      </Row>
      <NumberRow
        name="Repeated"
        unit="times over"
        hint="In a video file; a GIF goes round by itself."
        label="Times over"
        whole
        min={1}
        value={clock.repeats}
        width="4.6rem"
        onCommit={(repeats) => put({ repeats }, "how many times over")}
      />
      <Row
        name="File names"
        hint="Number of the first file and its fewest digits, apart from which frames are shown."
      >
        <span className="quiet text-[13px]">from</span>
        <NumberEntry
          label="Number of the first file"
          whole
          min={0}
          value={names.start}
          width="4.2rem"
          onCommit={(start) => edit({ names: { start } }, "the numbers of the files")}
        />
        <span className="quiet text-[13px]">digits</span>
        <NumberEntry
          label="Digits of the files' numbers"
          whole
          min={1}
          max={12}
          value={names.digits ?? 4}
          width="2.6rem"
          onCommit={(digits) => edit({ names: { digits } }, "the digits of the files' numbers")}
        />
      </Row>
    </>
  );
}
