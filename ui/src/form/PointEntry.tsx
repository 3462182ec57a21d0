import { NumberEntry } from "../parts/entries/NumberEntry";

interface Props {
  label: string;
  values: number[];
  onChange: (values: number[]) => void;
}

/** x, y and z of a place in the source's units. */
export function PointEntry({ label, values, onChange }: Props) {
  return (["x", "y", "z"] as const).map((axis, n) => (
    <NumberEntry
      key={axis}
      label={`${label} ${axis}`}
      width="3.9rem"
      step={0.1}
      value={values[n]}
      onCommit={(value) => onChange(values.map((old, k) => (k === n ? value : old)))}
    />
  ));
}
