import { Plus } from "lucide-react";
import type { ShotDocument } from "../api/client";
import { TextEntry } from "../parts/entries/TextEntry";
import { RemoveButton } from "../parts/RemoveButton";
import { FormRows } from "./FormRows";

export type Label = NonNullable<ShotDocument["labels"]>[number];

const NEW: Label = {
  text: "frame {frame} of {count}",
  name: "",
  value: 0,
  at: [0.03, 0.94],
  size: 0.035,
  colour: "#ffffff",
  align: "left",
};

interface Props {
  labels: Label[];
  /** What a new one says. */
  text?: string;
  onChange: (make: (now: Label[]) => Label[]) => void;
}

/** Texts on the frames, one below another. */
export function LabelList({ labels, text = NEW.text, onChange }: Props) {
  const change = (n: number, values: Partial<Label>) =>
    onChange((now) => now.map((old, k) => (k === n ? { ...old, ...values } : old)));
  return (
    <>
      {labels.map((label, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a label has no name that it must keep
        <section key={n} className="mb-2 border-b rule pb-1" aria-label={`Label ${n + 1}`}>
          <div className="mb-2 flex items-center gap-1.5">
            <TextEntry
              label={`Text of label ${n + 1}`}
              value={label.text}
              onCommit={(to) => change(n, { text: to })}
            />
            <RemoveButton
              label={`Remove label ${n + 1}`}
              onClick={() => onChange((now) => now.filter((_, k) => k !== n))}
            />
          </div>
          <FormRows
            form="label"
            values={label}
            known={{ driven: label.text.includes("{value") }}
            of={` of label ${n + 1}`}
            onSet={(values) => change(n, values)}
          />
        </section>
      ))}
      <button
        type="button"
        className="btn btn-sm mb-1 font-normal"
        onClick={() => onChange((now) => [...now, { ...NEW, text }])}
      >
        <Plus size={14} aria-hidden /> Add a label
      </button>
    </>
  );
}
