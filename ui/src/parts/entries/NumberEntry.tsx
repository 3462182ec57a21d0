import { short } from "../format";
import { Entry, type EntryProps, type Reading } from "./Entry";
import { type Bounds, numberIn } from "./typedNumber";

interface Props extends EntryProps, Bounds {
  value: number;
  onCommit: (value: number) => void;
  step?: number;
}

/** A typed number; arrows step it. */
export function NumberEntry({ value, onCommit, ...props }: Props) {
  return <MaybeEntry {...props} value={value} onCommit={(next) => next !== null && onCommit(next)} />;
}

interface MaybeProps extends EntryProps, Bounds {
  value: number | null;
  onCommit: (value: number | null) => void;
  step?: number;
}

/** A typed number, or none; the placeholder names the meaning of an empty field. */
export function MaybeEntry({ value, onCommit, step = 1, width = "5.5rem", ...props }: MaybeProps) {
  const { min, max, above, whole, ...rest } = props;
  const bounds = { min, max, above, whole };
  const read = (text: string): Reading<number | null> =>
    text === "" ? { value: null } : numberIn(text, props.label, bounds);
  const stepped = (text: string, steps: number): Reading<number | null> => {
    const typed = read(text);
    const from = "value" in typed && typed.value !== null ? typed.value : (value ?? 0);
    return numberIn(String(Number((from + step * steps).toFixed(6))), props.label, bounds);
  };
  return (
    <Entry
      {...rest}
      width={width}
      inputMode={whole ? "numeric" : "decimal"}
      shown={value === null ? "" : short(value, 4)}
      read={read}
      stepped={stepped}
      onCommit={(next) => next !== value && onCommit(next)}
    />
  );
}
