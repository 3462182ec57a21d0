import { CircleDot, Plus } from "lucide-react";
import { useState } from "react";
import type { Shot } from "../../../../api/client";
import { targetName } from "../../../../api/vocabulary";
import { EasingEntry } from "../../../../form/EasingEntry";
import { Pair } from "../../../../form/Pair";
import { Row } from "../../../../form/Row";
import { Choice } from "../../../../parts/entries/Choice";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { Pager } from "../../../../parts/Pager";
import { RemoveButton } from "../../../../parts/RemoveButton";
import { countedIn, type Drivable, heightOf, type Lane, type LaneKey, PLACES, placeOf } from "../../lanes";
import { KeyRow } from "./KeyRow";

interface Props {
  shot: Shot;
  lane: Lane;
  drivable?: Drivable;
  others: string[];
  onChange: (values: Partial<Lane>) => void;
  onPlayIn: (of: Drivable) => void;
  onRemove: () => void;
}

const KEYS_SHOWN = 20;

/** One lane: its keys, and how it runs through them. */
export function LaneCard({ shot, lane, drivable, others, onChange, onPlayIn, onRemove }: Props) {
  const name = targetName(lane.drive);
  const keys = (next: LaneKey[]) => onChange({ keys: next });
  const [chosen, setPage] = useState(0);
  const pages = Math.max(Math.ceil(lane.keys.length / KEYS_SHOWN), 1);
  const page = Math.min(chosen, pages - 1);
  const [first, second] = rangeOf(lane, drivable);
  const source = lane.formula != null ? "formula" : (lane.follows ?? "keys");
  const take = (from: string) =>
    onChange({
      keys:
        from === "keys"
          ? [
              [0, first],
              [1, second],
            ]
          : [],
      follows: from === "keys" || from === "formula" ? null : from,
      formula: from === "formula" ? `mix(${first}, ${second}, phase)` : null,
    });
  return (
    <section className="mb-4 border-b rule pb-2" aria-label={`Lane ${name}`}>
      <div className="mb-2 flex items-center">
        <h3 className="flex-1 font-semibold">{name}</h3>
        <span className="quiet mr-1 text-note">
          {drivable && drivable.low !== null ? spelled(drivable) : ""}
        </span>
        {drivable && (
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label={`Record ${name}`}
            title={`Record ${name}: move it while the shot plays`}
            onClick={() => onPlayIn(drivable)}
          >
            <CircleDot size={15} aria-hidden />
          </button>
        )}
        <RemoveButton label={`Remove lane ${name}`} onClick={onRemove} />
      </div>
      {lane.keys.length > 0 && (
        <>
          <p className="quiet mb-1 flex gap-1.5 text-note" aria-hidden>
            <span className="w-[3.4rem]">place</span>
            <span className="w-[4.2rem]">value</span>
            <span>easing to the next</span>
          </p>
          <Pager what={`keys of ${name}`} page={page} pages={pages} onPage={setPage} />
          {lane.keys.map(
            (_, n) =>
              Math.floor(n / KEYS_SHOWN) === page && (
                <KeyRow
                  // biome-ignore lint/suspicious/noArrayIndexKey: a key that moves keeps its row
                  key={n}
                  lane={lane}
                  number={n}
                  drivable={drivable}
                  onChange={(to) => keys(lane.keys.map((old, k) => (k === n ? to : old)))}
                  onRemove={() => keys(lane.keys.filter((_, k) => k !== n))}
                />
              ),
          )}
          <button
            type="button"
            className="btn btn-ghost btn-xs mb-2 font-normal"
            onClick={() => keys(withKey(lane.keys))}
          >
            <Plus size={13} aria-hidden /> Add a key
          </button>
        </>
      )}
      {lane.formula != null && (
        <div className="mb-2.5 text-small">
          Formula
          <TextEntry
            label={`Formula of ${name}`}
            value={lane.formula}
            className="entry mt-1 w-full text-note"
            onCommit={(formula) => onChange({ formula })}
          />
          <p className="quiet mt-0.5 text-note leading-snug">
            Of phase, seconds, frame and lane(…); sin(tau * phase) goes round once.
          </p>
        </div>
      )}
      <Row name="Repeats">
        <NumberEntry
          label={`${name}, times over the shot`}
          value={lane.repeat}
          min={0.01}
          max={1000}
          width="3rem"
          onCommit={(repeat) => onChange({ repeat })}
        />
        <span className="quiet text-small">×</span>
        <Choice
          label={`Motion of ${name}`}
          value={lane.back ? "back" : "there"}
          options={[
            { value: "there", label: "one way" },
            { value: "back", label: "ping-pong" },
          ]}
          onChoose={(to) => onChange({ back: to === "back" })}
        />
      </Row>
      {lane.keys.length > 0 && (
        <Row name="Times in">
          <Choice
            label={`Places of ${name} in`}
            value={lane.at}
            options={PLACES.map((at) => ({ value: at, label: at }))}
            onChoose={(at) => onChange(countedIn(lane, at, shot))}
          />
        </Row>
      )}
      <Row name="Between" hint="Phases of the shot in which the lane runs.">
        <Pair
          step={0.05}
          width="4.2rem"
          first={{
            label: `${name}, begins at phase`,
            value: lane.within[0] as number,
            min: 0,
            max: (lane.within[1] as number) - 0.001,
            onCommit: (begin) => onChange({ within: [begin, lane.within[1]] }),
          }}
          word="and"
          second={{
            label: `${name}, ends at phase`,
            value: lane.within[1] as number,
            min: (lane.within[0] as number) + 0.001,
            max: 1,
            onCommit: (end) => onChange({ within: [lane.within[0], end] }),
          }}
        />
      </Row>
      <Row name="Phase offset" unit="cycles">
        <NumberEntry
          label={`${name}, ahead by`}
          value={lane.offset}
          min={-1}
          max={1}
          step={0.05}
          width="4.2rem"
          onCommit={(offset) => onChange({ offset })}
        />
      </Row>
      {lane.keys.length > 0 && (
        <Row name="Easing">
          <EasingEntry
            label={`Easing of ${name}`}
            value={lane.ease}
            onChoose={(ease) => onChange({ ease })}
          />
        </Row>
      )}
      <Row name="Values from">
        <select
          className="entry"
          aria-label={`${name} follows`}
          value={source}
          onChange={(event) => take(event.target.value)}
        >
          <option value="keys">its own keys</option>
          <option value="formula">a formula</option>
          {others.map((drive) => (
            <option key={drive} value={drive}>
              {targetName(drive)}
            </option>
          ))}
        </select>
      </Row>
      {lane.follows != null && (
        <Row name="Value">
          <Pair
            width="4rem"
            first={{ label: `${name}, times`, value: lane.times, onCommit: (times) => onChange({ times }) }}
            word="× leader +"
            second={{ label: `${name}, plus`, value: lane.plus, onCommit: (plus) => onChange({ plus }) }}
          />
        </Row>
      )}
    </section>
  );
}

/** What a lane goes between: its own keys, else what its target goes between. */
function rangeOf(lane: Lane, drivable?: Drivable): [number, number] {
  if (lane.keys.length > 1) return [heightOf(lane.keys[0]), heightOf(lane.keys[lane.keys.length - 1])];
  return [drivable?.first ?? 0, drivable?.second ?? 1];
}

const spelled = ({ low, high, unit }: Drivable) => `${low} to ${high} ${unit}`;

/** One key more, in the middle of the widest stretch. */
function withKey(keys: LaneKey[]): LaneKey[] {
  if (keys.length === 1)
    return placeOf(keys[0]) < 1 ? [...keys, [1, heightOf(keys[0])]] : [[0, heightOf(keys[0])], ...keys];
  let widest = 0;
  const width = (n: number) => placeOf(keys[n + 1]) - placeOf(keys[n]);
  for (let n = 1; n < keys.length - 1; n++) if (width(n) > width(widest)) widest = n;
  const [before, after] = [keys[widest], keys[widest + 1]];
  const key: LaneKey = [(placeOf(before) + placeOf(after)) / 2, (heightOf(before) + heightOf(after)) / 2];
  return [...keys.slice(0, widest + 1), key, ...keys.slice(widest + 1)];
}
