import { useEffect, useState } from "react";

/** What a text is read as, or why it is not taken. */
export type Reading<T> = { value: T } | { wrong: string };

export interface EntryProps {
  label: string;
  className?: string;
  width?: string;
  /** What an empty field means; without it, nothing is not taken. */
  placeholder?: string;
  describedBy?: string;
}

interface Props<T> extends EntryProps {
  shown: string;
  read: (text: string) => Reading<T>;
  onCommit: (value: T) => void;
  /** The value after one step up or down from what a text says, where there are steps. */
  stepped?: (text: string, steps: number) => Reading<T>;
  inputMode?: "numeric" | "decimal";
}

const SAID_MS = 6000;

/**
 * A typed value: applied on Enter or when it loses the focus; Escape restores the old one, arrows step it.
 * An invalid value shows a message, and the old value stays.
 */
export function Entry<T>(props: Props<T>) {
  const { label, shown, read, stepped, onCommit, className = "entry", width } = props;
  const [draft, setDraft] = useState<string | null>(null);
  const [refused, setRefused] = useState("");
  const take = (reading: Reading<T>) => {
    setDraft(null);
    setRefused("wrong" in reading ? reading.wrong : "");
    if ("value" in reading) onCommit(reading.value);
  };
  const commit = () => {
    if (draft === null) return;
    const text = draft.trim();
    if (text === shown) setDraft(null);
    else take(read(text));
  };
  // A value that changes elsewhere ends the draft.
  const [before, setBefore] = useState(shown);
  if (before !== shown) {
    setBefore(shown);
    setDraft(null);
  }
  useEffect(() => {
    if (!refused) return;
    const over = setTimeout(() => setRefused(""), SAID_MS);
    return () => clearTimeout(over);
  }, [refused]);
  return (
    <span className={`relative inline-flex min-w-0 ${width ? "" : "flex-1"}`} style={{ width }}>
      <input
        className={`w-full ${className}`}
        inputMode={props.inputMode}
        aria-label={label}
        aria-describedby={props.describedBy}
        aria-invalid={refused !== "" || (draft !== null && "wrong" in read(draft.trim()))}
        placeholder={props.placeholder}
        data-draft={draft !== null || undefined}
        value={draft ?? shown}
        onChange={(event) => {
          setRefused("");
          setDraft(event.target.value);
        }}
        onFocus={(event) => stepped && event.target.select()}
        onBlur={commit}
        onKeyDown={(event) => {
          // A number keeps the focus for the arrow keys. A text commits on blur.
          if (event.key === "Enter" && stepped) commit();
          else if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape" && draft !== null) {
            // Escape discards the draft only; it does not close the surrounding sheet.
            event.stopPropagation();
            setDraft(null);
          }
          if (stepped && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
            event.preventDefault();
            take(stepped(draft ?? shown, (event.key === "ArrowUp" ? 1 : -1) * (event.shiftKey ? 10 : 1)));
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
