import type { Run } from "../../api/client";

interface Props {
  run: Run;
  label: string;
  strand: number;
  onStrand: (strand: number) => void;
  className?: string;
}

/** Which of a take's cameras with which pass; nothing where there is one. */
export function StrandChoice({ run, label, strand, onStrand, className = "" }: Props) {
  if (run.strands.length === 1) return null;
  return (
    <select
      className={`entry font-sans ${className}`}
      aria-label={label}
      value={strand}
      onChange={(event) => onStrand(Number(event.target.value))}
    >
      {run.strands.map((told, n) => (
        <option key={told} value={n}>
          {told}
        </option>
      ))}
    </select>
  );
}
