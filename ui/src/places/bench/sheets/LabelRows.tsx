import { Plus } from "lucide-react";
import type { ShotDocument } from "../../../api/client";
import { ColourEntry } from "../../../parts/ColourEntry";
import { NumberEntry } from "../../../parts/NumberEntry";
import { RemoveButton } from "../../../parts/RemoveButton";
import { TextEntry } from "../../../parts/TextEntry";
import type { BenchValue } from "../context";
import { ChoiceRow } from "./ChoiceRow";
import { Pair } from "./Pair";
import { Row } from "./Row";

type Label = NonNullable<ShotDocument["labels"]>[number];

const NEW: Label = {
  text: "frame {frame} of {count}",
  name: "",
  value: 0,
  at: [0.03, 0.94],
  size: 0.035,
  colour: "#ffffff",
  align: "left",
};
const PLACES: { name: string; at: number[]; align: Label["align"] }[] = [
  { name: "top left", at: [0.03, 0.06], align: "left" },
  { name: "top right", at: [0.97, 0.06], align: "right" },
  { name: "bottom left", at: [0.03, 0.94], align: "left" },
  { name: "bottom", at: [0.5, 0.94], align: "middle" },
  { name: "bottom right", at: [0.97, 0.94], align: "right" },
];

/** Text on the frames, with numbers in it; none unless it is asked for. */
export function LabelRows({ shot, edit }: Pick<BenchValue, "shot" | "edit">) {
  const labels = shot.document.labels;
  const save = (next: Label[]) => edit({ labels: next }, "the labels");
  return (
    <>
      <h3 className="mb-1.5 mt-4 text-small font-semibold">Labels on the frames</h3>
      {labels.map((label, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a label has no name that it must keep
        <section key={n} className="mb-2 border-b rule pb-1" aria-label={`Label ${n + 1}`}>
          <LabelEntry
            label={label}
            number={n + 1}
            onChange={(values) => save(labels.map((old, k) => (k === n ? { ...old, ...values } : old)))}
            onRemove={() => save(labels.filter((_, k) => k !== n))}
          />
        </section>
      ))}
      <button type="button" className="btn btn-sm mb-1 font-normal" onClick={() => save([...labels, NEW])}>
        <Plus size={14} aria-hidden /> Add a label
      </button>
      <p className="quiet text-note leading-snug">
        Fields: {"{frame} {number} {count} {phase:.2f} {seconds:.1f} {timecode} {value}"}, or a dial by its
        name. They become part of the picture.
      </p>
    </>
  );
}

interface EntryProps {
  label: Label;
  number: number;
  onChange: (values: Partial<Label>) => void;
  onRemove: () => void;
}

function LabelEntry({ label, number, onChange, onRemove }: EntryProps) {
  const place = PLACES.find(
    ({ at, align }) => at[0] === label.at[0] && at[1] === label.at[1] && align === label.align,
  );
  const driven = label.text.includes("{value");
  return (
    <>
      <div className="mb-2 flex items-center gap-1.5">
        <TextEntry
          label={`Text of label ${number}`}
          value={label.text}
          className="entry min-w-0 flex-1"
          onCommit={(text) => onChange({ text })}
        />
        <RemoveButton label={`Remove label ${number}`} onClick={onRemove} />
      </div>
      <Row name="Stands">
        <select
          className="entry min-w-0 flex-1"
          aria-label={`Place of label ${number}`}
          value={place?.name ?? ""}
          onChange={(event) => {
            const to = PLACES.find(({ name }) => name === event.target.value);
            if (to) onChange({ at: to.at, align: to.align });
          }}
        >
          {!place && <option value="">where it was put</option>}
          {PLACES.map(({ name }) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </Row>
      <Row name="At" unit="%">
        <Pair
          width="3.6rem"
          min={0}
          max={100}
          first={{
            label: `Label ${number}, from the left, per cent`,
            value: (label.at[0] as number) * 100,
            onCommit: (x) => onChange({ at: [x / 100, label.at[1]] }),
          }}
          word="across,"
          second={{
            label: `Label ${number}, from the top, per cent`,
            value: (label.at[1] as number) * 100,
            onCommit: (y) => onChange({ at: [label.at[0], y / 100] }),
          }}
        />
      </Row>
      <ChoiceRow
        name="Aligned"
        label={`Alignment of label ${number}`}
        value={label.align}
        options={[
          { value: "left", label: "left" },
          { value: "middle", label: "middle" },
          { value: "right", label: "right" },
        ]}
        onChoose={(align) => onChange({ align })}
      />
      <Row name="Size" unit="% of the height">
        <NumberEntry
          label={`Size of label ${number}`}
          value={label.size * 100}
          min={0.5}
          max={50}
          step={0.5}
          width="3.6rem"
          onCommit={(size) => onChange({ size: size / 100 })}
        />
        <ColourEntry
          label={`Colour of label ${number}`}
          value={label.colour}
          onCommit={(colour) => onChange({ colour })}
        />
      </Row>
      {driven && (
        <Row name="Value" hint="A name lets a lane drive {value}.">
          <NumberEntry
            label={`Value of label ${number}`}
            value={label.value}
            width="4rem"
            onCommit={(value) => onChange({ value })}
          />
          <span className="quiet text-small">named</span>
          <input
            className="entry w-20"
            aria-label={`Name of label ${number}`}
            key={label.name}
            defaultValue={label.name}
            onBlur={(event) => event.target.value !== label.name && onChange({ name: event.target.value })}
          />
        </Row>
      )}
    </>
  );
}
