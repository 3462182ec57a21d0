import type { Schemas } from "../../../../api/client";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { short } from "../../../../parts/format";
import { RemoveButton } from "../../../../parts/RemoveButton";
import type { Sweep } from "./SweepSheet";

type AxisSpec = Sweep["axes"][number];
type Setting = Schemas["SettingBody"];
type Way = "list" | "steps" | "samples";

/** A wider range is no useful hint. */
const VAST = 10_000;

interface Props {
  axis: AxisSpec;
  settings: Setting[];
  onChange: (axis: AxisSpec | null) => void;
}

/** What varies along an axis, and its values: a list, even steps, or samples between two ends. */
export function Axis({ axis, settings, onChange }: Props) {
  const own = settings.find((one) => one.over === axis.over);
  const texts = typeof (own?.value ?? axis.values?.[0]) === "string";
  const way: Way = axis.values?.length ? "list" : axis.steps == null ? "samples" : "steps";
  const choose = (over: string) => {
    const next = settings.find((one) => one.over === over);
    if (next && typeof next.value === "string")
      onChange({ over, values: next.choices ?? [next.value] } as AxisSpec);
    else onChange({ over, first: next?.low ?? 0, last: next?.high ?? 1, steps: axis.steps ?? 3 } as AxisSpec);
  };
  const turn = (next: Way) => {
    const [first, last] = ends(axis);
    if (next === "list") onChange({ over: axis.over, values: listed(axis) } as AxisSpec);
    else onChange({ over: axis.over, first, last, steps: next === "steps" ? 3 : null } as AxisSpec);
  };
  const end = (label: string, key: "first" | "last") => (
    <div>
      <span className="mb-0.5 block">{label}</span>
      <NumberEntry
        label={`${axis.over}, ${label.toLowerCase()}`}
        value={axis[key] ?? 0}
        min={own?.low ?? undefined}
        max={own?.high ?? undefined}
        width="5rem"
        onCommit={(value) => onChange({ ...axis, [key]: value })}
      />
    </div>
  );
  return (
    <section className="rounded-box border rule p-2.5" aria-label={`Axis ${axis.over}`} data-testid="axis">
      <div className="mb-2 flex items-center gap-2">
        <select
          className="select select-sm min-w-0 flex-1"
          aria-label="What varies"
          value={axis.over}
          onChange={(event) => choose(event.target.value)}
        >
          {!own && <option value={axis.over}>{axis.over}</option>}
          {settings.map((one) => (
            <option key={one.over} value={one.over}>
              {one.label}
              {one.unit && one.unit !== one.label && ` (${one.unit})`}
            </option>
          ))}
        </select>
        <RemoveButton label={`Remove the axis ${axis.over}`} onClick={() => onChange(null)} />
      </div>
      {!texts && (
        <select
          className="select select-sm mb-2 w-full"
          aria-label={`${axis.over}, values`}
          value={way}
          onChange={(event) => turn(event.target.value as Way)}
        >
          <option value="steps">Even steps</option>
          <option value="list">A list of values</option>
          <option value="samples">Random samples</option>
        </select>
      )}
      {texts || way === "list" ? (
        <TextEntry
          label={`${axis.over}, list`}
          value={(axis.values ?? []).join(", ")}
          onCommit={(text) => onChange({ over: axis.over, values: values(text, texts) } as AxisSpec)}
        />
      ) : (
        <div className="flex flex-wrap gap-3">
          {end("First", "first")}
          {end("Last", "last")}
          {way === "steps" && (
            <div>
              <span className="mb-0.5 block">Steps</span>
              <NumberEntry
                label={`${axis.over}, steps`}
                value={axis.steps ?? 3}
                min={1}
                max={10_000}
                whole
                width="4rem"
                onCommit={(steps) => onChange({ ...axis, steps })}
              />
            </div>
          )}
        </div>
      )}
      {own && own.low != null && own.high != null && own.high - own.low < VAST && (
        <p className="quiet mt-1 text-note">
          {short(own.low)} to {short(own.high)} {own.unit}; the shot has {String(own.value)}
        </p>
      )}
    </section>
  );
}

function ends(axis: AxisSpec): [number, number] {
  const numbers = (axis.values ?? []).map(Number).filter((one: number) => !Number.isNaN(one));
  return numbers.length ? [Math.min(...numbers), Math.max(...numbers)] : [axis.first ?? 0, axis.last ?? 1];
}

/** The values of even steps as a list. */
function listed(axis: AxisSpec): number[] {
  const [first, last] = ends(axis);
  const steps = axis.steps ?? 3;
  if (steps === 1) return [first];
  return Array.from({ length: steps }, (_, n) => Number(short(first + ((last - first) * n) / (steps - 1))));
}

/** Typed values; the server refuses those that are none. */
const values = (text: string, texts: boolean) =>
  text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean)
    .map((one) => (texts || Number.isNaN(Number(one)) ? one : Number(one)));
