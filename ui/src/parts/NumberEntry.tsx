import { useEffect, useState } from "react";
import { numberOf, readsTwoWays } from "./typedNumber";
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

const SAID_MS = 6000;

/**
 * A typed number: taken on Enter or when left, Escape brings the old one back, arrows step it.
 * What cannot be taken is said, and the old value stays.
 */
export function NumberEntry(props: Props) {
  const { label, value, onCommit, step = 1, whole, className = "", width = "5.5rem" } = props;
  const [draft, setDraft] = useState<string | null>(null);
  const [refused, setRefused] = useState("");
  const shown = draft ?? short(value, 4);
  const commit = () => {
    if (draft === null) return;
    const wrong = refusalOf(draft, props);
    setDraft(null);
    setRefused(wrong);
    if (!wrong && numberOf(draft) !== value) onCommit(numberOf(draft));
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: a value that changes elsewhere ends the draft
  useEffect(() => setDraft(null), [value]);
  useEffect(() => {
    if (!refused) return;
    const over = setTimeout(() => setRefused(""), SAID_MS);
    return () => clearTimeout(over);
  }, [refused]);
  return (
    <span className="relative inline-flex" style={{ width }}>
      <input
        className={`entry w-full ${className}`}
        inputMode={whole ? "numeric" : "decimal"}
        aria-label={label}
        aria-describedby={props.describedBy}
        aria-invalid={refused !== "" || (draft !== null && refusalOf(draft, props) !== "")}
        data-draft={draft !== null || undefined}
        value={shown}
        onChange={(event) => {
          setRefused("");
          setDraft(event.target.value);
        }}
        onFocus={(event) => event.target.select()}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter") commit();
          if (event.key === "Escape" && draft !== null) {
            // Only what was typed is given up, and not what the field stands in.
            event.stopPropagation();
            setDraft(null);
          }
          if (event.key === "ArrowUp" || event.key === "ArrowDown") {
            event.preventDefault();
            const way = (event.key === "ArrowUp" ? step : -step) * (event.shiftKey ? 10 : 1);
            const from = refusalOf(shown, props) ? value : numberOf(shown);
            const next = Number((from + way).toFixed(6));
            const wrong = refusalOf(String(next), props);
            setDraft(null);
            setRefused(wrong);
            if (!wrong && next !== value) onCommit(next);
          }
        }}
      />
      {refused && (
        <span
          role="alert"
          className="absolute left-0 top-full z-40 mt-0.5 w-max max-w-56 rounded-box border border-error bg-base-100 px-2 py-1 font-sans text-note leading-snug shadow"
        >
          {refused}
        </span>
      )}
    </span>
  );
}

/** Why a text is not taken as the number, or empty. */
function refusalOf(text: string, { label, min, max, whole }: Props): string {
  const n = numberOf(text);
  if (readsTwoWays(text)) {
    const [whole, rest] = text.trim().split(",");
    return `${text.trim()} could be ${whole}${rest} or ${whole}.${rest}: write it without the comma, or with a point`;
  }
  if (Number.isNaN(n)) return `“${text.trim()}” is not a number: ${label} is unchanged`;
  if (whole && !Number.isInteger(n)) return `${label} must be a whole number, not ${text.trim()}`;
  if ((min === undefined || n >= min) && (max === undefined || n <= max)) return "";
  const spelled = (bound: number) => bound.toLocaleString("en", { maximumFractionDigits: 6 });
  const range =
    min === undefined
      ? `at most ${spelled(max ?? 0)}`
      : max === undefined
        ? `${spelled(min)} or more`
        : `from ${spelled(min)} to ${spelled(max)}`;
  return `${label} must be ${range}: ${spelled(n)} was not applied`;
}
