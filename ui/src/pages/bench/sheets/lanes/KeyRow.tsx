import { X } from "lucide-react";
import { targetName } from "../../../../api/vocabulary";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { KeyEasing } from "../../KeyEasing";
import { type Drivable, heightOf, type Lane, type LaneKey, placeOf, stepOf } from "../../lanes";

interface Props {
  lane: Lane;
  number: number;
  drivable?: Drivable;
  onChange: (key: LaneKey) => void;
  onRemove: () => void;
}

/** A key: its time, its value, and how the lane continues from it. */
export function KeyRow({ lane, number, drivable, onChange, onRemove }: Props) {
  const key = lane.keys[number];
  const name = targetName(lane.drive);
  const which = place(number, lane.keys.length);
  const last = number === lane.keys.length - 1;
  const rest = key.slice(2) as string[];
  const before = number > 0 ? placeOf(lane.keys[number - 1]) : undefined;
  const after = last ? undefined : placeOf(lane.keys[number + 1]);
  const apart = lane.at === "frames" ? 1 : 0.001;
  return (
    <div className="mb-1.5 flex items-center gap-1.5">
      <NumberEntry
        label={`${name}, ${which}, place`}
        value={placeOf(key)}
        min={before === undefined ? undefined : before + apart}
        max={after === undefined ? undefined : after - apart}
        step={lane.at === "frames" ? 1 : 0.05}
        width="3.4rem"
        onCommit={(to) => onChange([to, heightOf(key), ...rest] as LaneKey)}
      />
      <NumberEntry
        label={`${name}, ${which}`}
        value={heightOf(key)}
        min={drivable?.low ?? undefined}
        max={drivable?.high ?? undefined}
        step={stepOf(drivable)}
        width="4.2rem"
        onCommit={(to) => onChange([placeOf(key), to, ...rest] as LaneKey)}
      />
      {last ? (
        <span className="flex-1" />
      ) : (
        <KeyEasing
          label={`${name}, ${which}, easing out`}
          lane={lane}
          of={key}
          className="min-w-0 flex-1"
          onChoose={(to) => onChange([placeOf(key), heightOf(key), ...(to ? [to] : [])] as LaneKey)}
        />
      )}
      <button
        type="button"
        className="btn btn-ghost btn-xs btn-square"
        aria-label={`Remove the key of ${name}, ${which}`}
        disabled={lane.keys.length === 1}
        onClick={onRemove}
      >
        <X size={14} aria-hidden />
      </button>
    </div>
  );
}

function place(number: number, of: number): string {
  if (number === 0) return "from";
  return number === of - 1 ? "to" : of > 3 ? `key ${number + 1}` : "middle key";
}
