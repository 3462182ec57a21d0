import { vocabulary } from "../../api/vocabulary";
import { easingOf, type Lane, type LaneKey } from "./lanes";

interface Props {
  label: string;
  lane: Lane;
  of: LaneKey;
  className: string;
  /** An easing, or nothing for that of the lane. */
  onChoose: (easing: string) => void;
}

/** The easing out of a key: its own, or that of its lane. */
export function KeyEasing({ label, lane, of, className, onChoose }: Props) {
  const own = of.length > 2 ? easingOf(of, lane) : "";
  return (
    <select
      className={`entry text-small ${className}`}
      aria-label={label}
      value={own}
      onChange={(event) => onChoose(event.target.value)}
    >
      <option value="">same as the lane</option>
      {vocabulary().easings.map(({ name: easing }) => (
        <option key={easing}>{easing}</option>
      ))}
      {own.includes("(") && <option>{own}</option>}
    </select>
  );
}
