import type { Shot } from "../../../api/client";
import { NumberEntry } from "../../../parts/NumberEntry";
import { ordinal } from "../../../parts/words";
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
      <h3 className="mb-1.5 mt-4 text-small font-semibold">Frames shown</h3>
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
        name="Show every"
        unit={every === 1 ? "frame" : `${ordinal(every)} frame`}
        label="Show every Nth frame"
        whole
        min={1}
        value={every}
        width="3.6rem"
        onCommit={(to) => put({ every: to }, "the step")}
      />
      {every > 1 && (
        <ChoiceRow
          name="Playback"
          label="Playback"
          value={clock.play}
          options={[
            { value: "pace", label: "keep speed", hint: "The motion keeps its speed, at a lower rate" },
            { value: "rate", label: "full rate", hint: "The motion goes faster, at the same rate" },
          ]}
          onChoose={(play) => put({ play }, "how picked frames are played")}
        />
      )}
      <NumberRow
        name="Speed"
        unit="× capture speed"
        label="Playback speed"
        min={0.001}
        max={1000}
        step={0.1}
        value={clock.speed}
        width="4.6rem"
        onCommit={(speed) => put({ speed }, "the speed")}
      />
      <ChoiceRow
        name="Order"
        label="Order of the frames"
        value={clock.order}
        options={[
          { value: "forward", label: "forward" },
          { value: "backward", label: "backward" },
          {
            value: "there-and-back",
            label: "both ways",
            hint: "There and back: captures the same frames, shows them both ways",
          },
        ]}
        onChoose={(order) => put({ order }, "the order")}
      />
      <Row name="Hold" hint="Still frames before and after the motion.">
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
        name="Play count"
        unit="times"
        hint="In a video file; a GIF always loops."
        label="Play count"
        whole
        min={1}
        value={clock.repeats}
        width="4.6rem"
        onCommit={(repeats) => put({ repeats }, "the play count")}
      />
      <Row name="File names" hint="Start number and zero padding.">
        <span className="quiet text-small">from</span>
        <NumberEntry
          label="Start number"
          whole
          min={0}
          value={names.start}
          width="4.2rem"
          onCommit={(start) => edit({ names: { start } }, "the numbers of the files")}
        />
        <span className="quiet text-small">digits</span>
        <NumberEntry
          label="Digits of file numbers"
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
