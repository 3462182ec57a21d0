import type { Schemas } from "../api/client";
import { Choice } from "../parts/entries/Choice";
import { ColourEntry } from "../parts/entries/ColourEntry";
import { MaybeEntry, NumberEntry } from "../parts/entries/NumberEntry";
import { TextEntry } from "../parts/entries/TextEntry";
import { EasingEntry } from "./EasingEntry";
import { LengthEntry } from "./LengthEntry";
import { PointEntry } from "./PointEntry";
import { holds, isSame, type Known, type Values, valueAt } from "./paths";

type Field = Schemas["Field"];

interface Props {
  field: Field;
  values: unknown;
  known: Known;
  /** Put behind the label, where several of a kind are shown: " of label 2". */
  of?: string;
  onSet: (sets: Values) => void;
}

/** The control of one value. */
export function FieldEntry({ field, values, known, of = "", onSet }: Props) {
  const { path, scale } = field;
  const label = field.label + of;
  const value = valueAt(values, path) ?? field.default;
  const set = (next: unknown, others: Values = {}) => onSet({ [path]: next, ...field.sets, ...others });
  const placeholder = field.nothing || undefined;
  const width = field.width || undefined;
  switch (field.widget) {
    case "number": {
      const number = typeof value === "number" ? value * scale : null;
      const [low, high] = field.bounds_from.map((name) => known[name] as number);
      const props = {
        label,
        width,
        placeholder,
        min: low ?? field.low ?? undefined,
        max: high ?? field.high ?? undefined,
        above: field.above ?? undefined,
        step: field.step ?? undefined,
        whole: field.whole,
      };
      return placeholder ? (
        <MaybeEntry
          {...props}
          value={number}
          onCommit={(next) => set(next === null ? field.empty : next / scale)}
        />
      ) : (
        <NumberEntry {...props} value={number ?? 0} onCommit={(next) => set(next / scale)} />
      );
    }
    case "length":
      return (
        <LengthEntry
          label={label}
          width={width}
          placeholder={placeholder}
          seconds={value as number | null}
          frames={valueAt(values, framesOf(path)) as number | null}
          onCommit={({ seconds, frames }) => set(seconds, { [framesOf(path)]: frames })}
        />
      );
    case "choice":
    case "select": {
      const all = field.options_from ? (known[field.options_from] as Field["options"]) : field.options;
      const chosen = all.find((one) => isSame(one.value, value ?? null)) ?? all.find((one) => one.others);
      const options = all.filter((one) => one === chosen || holds(one.when ?? [], values, known));
      const spelled = (option: Field["options"][number]) => String(option.value ?? "");
      const names = options.map((option) => ({
        value: spelled(option),
        label: option.label,
        hint: option.hint,
      }));
      const choose = (to: string) => {
        const option = options.find((one) => spelled(one) === to);
        if (option) set(option.value, option.sets);
      };
      const at = chosen ? spelled(chosen) : String(value ?? "");
      if (field.widget === "choice")
        return <Choice label={label} value={at} options={names} onChoose={choose} />;
      return (
        <select
          className="select select-sm w-auto min-w-0 max-w-full text-ellipsis pr-8 text-small"
          aria-label={label}
          value={at}
          onChange={(event) => choose(event.target.value)}
        >
          {!chosen && <option value={at}>{at}</option>}
          {names.map((name) => (
            <option key={name.value} value={name.value}>
              {name.label}
            </option>
          ))}
        </select>
      );
    }
    case "check":
      return (
        <label className="flex items-center gap-2 text-small">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={value === true}
            onChange={(event) => set(event.target.checked)}
          />
          {label}
        </label>
      );
    case "colour":
      return <ColourEntry label={label} value={value as string} onCommit={set} />;
    case "easing":
      return <EasingEntry label={label} value={value as string} onChoose={set} />;
    case "point":
      return (
        <span className="flex gap-1">
          <PointEntry label={label} values={value as number[]} onChange={set} />
        </span>
      );
    default:
      return (
        <TextEntry
          label={label}
          width={width}
          placeholder={placeholder}
          value={(value as string | null) ?? ""}
          onCommit={(text) => set(text === "" ? field.empty : text)}
        />
      );
  }
}

const framesOf = (path: string) => path.replace(/seconds$/, "frames");
