import { useEffect, useState } from "react";

interface Props {
  label: string;
  value: string;
  onCommit: (value: string) => void;
  className?: string;
  width?: string;
  /** What an empty field means; without it nothing is not taken. */
  placeholder?: string;
}

/** Typed text: taken on Enter or when left, Escape brings the old one back. */
export function TextEntry({ label, value, onCommit, className = "entry", width, placeholder }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a value that changes elsewhere ends the draft
  useEffect(() => setDraft(null), [value]);
  const commit = () => {
    const typed = draft?.trim();
    if (typed !== undefined && (typed || placeholder) && typed !== value) onCommit(typed);
    setDraft(null);
  };
  return (
    <input
      className={className}
      style={{ width }}
      aria-label={label}
      placeholder={placeholder}
      data-draft={draft !== null || undefined}
      value={draft ?? value}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape" && draft !== null) {
          // Only what was typed is given up, and not what the field stands in.
          event.stopPropagation();
          setDraft(null);
        }
      }}
    />
  );
}
