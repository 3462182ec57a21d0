import { Pin } from "lucide-react";
import type { Schemas } from "../../api/client";
import { fraction } from "../../parts/entries/fraction";
import { TextEntry } from "../../parts/entries/TextEntry";
import { short } from "../../parts/format";
import { useDetails } from "../../parts/hooks/useDetails";

interface Props {
  term: Schemas["Term"];
  width: string;
  className?: string;
  onType: (text: string) => void;
  onPin: () => void;
}

const LABELS: Record<string, string> = {
  rate: "Rate, frames per second",
  seconds: "Seconds",
  frames: "Frames",
  degrees: "Degrees per frame",
  turn_seconds: "Seconds per turn",
  pace: "Pace",
};

/** A term of the timing: typed in any form, marked when it follows, and pinned when it must stay. */
export function TermEntry({ term, width, className = "", onType, onPin }: Props) {
  const follows = term.reason !== "";
  const label = LABELS[term.name] ?? term.label;
  const details = useDetails();
  const stays = term.pinned ? `Unlock the ${term.label}` : `Lock the ${term.label} while other values change`;
  return (
    <span className="inline-flex items-center" title={term.reason}>
      <TextEntry
        label={follows ? `${label}, follows` : label}
        value={spelled(term)}
        width={width}
        className={`entry figures ${className} ${follows ? "follows" : ""}`}
        onCommit={onType}
      />
      {(details || term.pinned) && (
        <button
          type="button"
          className={`btn btn-ghost btn-xs btn-square -ml-0.5 ${term.pinned ? "text-primary" : "opacity-35 hover:opacity-100 focus-visible:opacity-100"}`}
          aria-label={stays}
          aria-pressed={term.pinned}
          title={stays}
          onClick={onPin}
        >
          <Pin size={13} aria-hidden fill={term.pinned ? "currentColor" : "none"} />
        </button>
      )}
    </span>
  );
}

/** The value as typed: rates stay fractions, all others are decimals. */
function spelled(term: Schemas["Term"]): string {
  if (term.name === "rate") return term.value;
  return short(fraction(term.value), 4);
}
