import { Plus } from "lucide-react";
import type { Shot } from "../../../api/client";
import { targetName } from "../../../api/vocabulary";
import { NumberEntry } from "../../../parts/entries/NumberEntry";
import { RemoveButton } from "../../../parts/RemoveButton";
import { KeyEasing } from "../KeyEasing";
import { type Drivable, heightOf, type Lane, type LaneKey, placeOf, stepOf } from "../lanes";
import { along, type KeyAt, sameKey, standingAt, tidy, withKeyAt, without } from "./keys";

interface Props {
  shot: Shot;
  lanes: Lane[];
  frame: number;
  chosen: KeyAt[];
  onChoose: (keys: KeyAt[]) => void;
  drivables: Drivable[];
  onSave: (lanes: Lane[], what: string) => void;
}

/** Exact values of the keys that are chosen; or a new key at the frame in sight. */
export function KeyBar({ shot, lanes, frame, chosen, onChoose, drivables, onSave }: Props) {
  const keys = chosen.filter((one) => lanes.find((lane) => lane.drive === one.drive)?.keys[one.key]);
  if (keys.length === 0) return <NewKeys shot={shot} lanes={lanes} frame={frame} onSave={onSave} />;
  const one = keys[0];
  const lane = lanes.find((other) => other.drive === one.drive) as Lane;
  const key = lane.keys[one.key];
  const curve = shot.curves.find((other) => other.drive === lane.drive);
  const { frameOf, placeAt } = along(shot, lane, curve);
  const of = drivables.find((other) => other.drive === lane.drive);
  const sameLane = keys.every((other) => other.drive === one.drive);
  const what = keys.length === 1 ? `a key of ${targetName(one.drive)}` : `${keys.length} keys`;
  const put = (change: (key: LaneKey, lane: Lane) => LaneKey) =>
    onSave(
      lanes.map((other) => ({
        ...other,
        keys: other.keys.map((old, n) =>
          keys.some((at) => sameKey(at, { drive: other.drive, key: n })) ? change(old, other) : old,
        ),
      })),
      what,
    );
  const before = lane.keys[one.key - 1];
  const after = lane.keys[one.key + 1];
  return (
    <div className="mb-0.5 flex min-h-7 items-center gap-1.5 text-small" data-testid="key-bar">
      <b>{keys.length === 1 ? targetName(one.drive) : `${keys.length} keys`}</b>
      {keys.length === 1 && (
        <>
          <span className="quiet">frame</span>
          <NumberEntry
            label="Frame of the key"
            width="4.4rem"
            value={Number(frameOf(placeOf(key)).toFixed(3))}
            min={before ? frameOf(placeOf(before)) + 0.01 : undefined}
            max={after ? frameOf(placeOf(after)) - 0.01 : undefined}
            onCommit={(to) => put((old) => [tidy(placeAt(to)), heightOf(old), ...old.slice(2)] as LaneKey)}
          />
        </>
      )}
      {sameLane && (
        <>
          <span className="quiet">value</span>
          <NumberEntry
            label="Value of the key"
            width="4.8rem"
            value={heightOf(key)}
            min={of?.low ?? undefined}
            max={of?.high ?? undefined}
            step={stepOf(of)}
            onCommit={(to) => put((old) => [placeOf(old), to, ...old.slice(2)] as LaneKey)}
          />
        </>
      )}
      <span className="quiet">easing</span>
      <KeyEasing
        label="Easing out of the key"
        lane={lane}
        of={key}
        className="w-36"
        onChoose={(easing) =>
          put((old) => [placeOf(old), heightOf(old), ...(easing ? [easing] : [])] as LaneKey)
        }
      />
      <RemoveButton
        label={`Remove ${what}`}
        title="Remove (Delete)"
        onClick={() => {
          onChoose([]);
          onSave(without(lanes, keys), what);
        }}
      />
      <Hint />
    </div>
  );
}

function Hint() {
  return (
    <span className="quiet ml-auto whitespace-nowrap text-note">
      drag keys, or a box around several · arrow keys move by a frame · double-click adds · Alt disables
      snapping
    </span>
  );
}

function NewKeys({ shot, lanes, frame, onSave }: Pick<Props, "shot" | "lanes" | "frame" | "onSave">) {
  const own = lanes.filter((lane) => lane.keys.length > 0);
  const add = (lane: Lane) => {
    const curve = shot.curves.find((one) => one.drive === lane.drive);
    const place = along(shot, lane, curve).placeAt(frame);
    return withKeyAt(
      lane,
      place,
      curve ? standingAt(curve.frames, curve.values, frame) : heightOf(lane.keys[0]),
    );
  };
  return (
    <div className="mb-0.5 flex min-h-7 items-center gap-1 overflow-hidden text-small" data-testid="key-bar">
      <span className="quiet mr-1">A key at frame {frame} for</span>
      {own.map((lane) => (
        <button
          key={lane.drive}
          type="button"
          className="btn btn-xs font-normal"
          aria-label={`Add a key of ${targetName(lane.drive)} at frame ${frame}`}
          onClick={() =>
            onSave(
              lanes.map((one) => (one === lane ? add(lane) : one)),
              `a key of ${targetName(lane.drive)}`,
            )
          }
        >
          <Plus size={12} aria-hidden /> {targetName(lane.drive)}
        </button>
      ))}
      <Hint />
    </div>
  );
}
