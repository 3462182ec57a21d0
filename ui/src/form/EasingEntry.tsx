import { vocabulary } from "../api/vocabulary";
import { TextEntry } from "../parts/entries/TextEntry";

/** The initial value of a custom easing. */
const OWN_EASING = "cubic-bezier(0.4, 0, 0.2, 1)";

interface Props {
  label: string;
  value: string;
  onChoose: (easing: string) => void;
}

/** An easing by name, or written out as in a style sheet. */
export function EasingEntry({ label, value, onChoose }: Props) {
  const own = value.includes("(");
  return (
    <span className="flex min-w-0 flex-1 flex-col gap-1">
      <select
        className="entry w-full"
        aria-label={label}
        value={own ? "own" : value}
        onChange={(event) => onChoose(event.target.value === "own" ? OWN_EASING : event.target.value)}
      >
        {vocabulary().easings.map(({ name: easing }) => (
          <option key={easing}>{easing}</option>
        ))}
        <option value="own">custom…</option>
      </select>
      {own && (
        <TextEntry
          label={`${label}, custom`}
          value={value}
          className="entry w-full text-note"
          onCommit={onChoose}
        />
      )}
    </span>
  );
}
