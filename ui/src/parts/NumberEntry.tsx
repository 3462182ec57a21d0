import { useEffect, useState } from "react";
import { short } from "./words";

interface Props {
  label: string;
  value: number;
  onCommit: (value: number) => void;
  step?: number;
  min?: number;
  max?: number;
  whole?: boolean;
  className?: string;
  width?: string;
  describedBy?: string;
}

/** A typed number: taken on Enter or when left, Escape brings the old one back, arrows step it. */
export function NumberEntry(props: Props) {
  const { label, value, onCommit, step = 1, min, max, whole, className = "", width = "5.5rem" } = props;
  const [draft, setDraft] = useState<string | null>(null);
  const shown = draft ?? short(value, 4);
  const bound = (n: number) => Math.min(Math.max(n, min ?? n), max ?? n);
  const read = (text: string) => {
    const n = Number(text.replace(",", ".").trim());
    return text.trim() === "" || Number.isNaN(n) || (whole && !Number.isInteger(n)) ? null : bound(n);
  };
  const commit = () => {
    const n = draft === null ? null : read(draft);
    setDraft(null);
    if (n !== null && n !== value) onCommit(n);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: a value that changes elsewhere ends the draft
  useEffect(() => setDraft(null), [value]);
  return (
    <input
      className={`entry ${className}`}
      style={{ width }}
      inputMode="decimal"
      aria-label={label}
      aria-describedby={props.describedBy}
      aria-invalid={draft !== null && read(draft) === null}
      value={shown}
      onChange={(event) => setDraft(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") commit();
        if (event.key === "Escape") setDraft(null);
        if (event.key === "ArrowUp" || event.key === "ArrowDown") {
          event.preventDefault();
          const way = event.key === "ArrowUp" ? step : -step;
          const next = bound(Number(((read(shown) ?? value) + way * (event.shiftKey ? 10 : 1)).toFixed(6)));
          setDraft(null);
          if (next !== value) onCommit(next);
        }
      }}
    />
  );
}
