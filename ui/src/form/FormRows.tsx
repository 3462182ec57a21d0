import { Fragment, type ReactNode } from "react";
import type { Patch, Schemas } from "../api/client";
import { vocabulary } from "../api/vocabulary";
import { Fold } from "../parts/Fold";
import { useDetails } from "../parts/hooks/useDetails";
import { FieldEntry } from "./FieldEntry";
import { filled, holds, isSame, type Known, patchOf, type Values, valueAt } from "./paths";
import { Row } from "./Row";

type FormRow = Schemas["Row"];

interface Props {
  /** The form's name, as the server lists it. */
  form: string;
  /** The document, or the part of it that the form is of. */
  values: unknown;
  known?: Known;
  /** Put behind all labels, where several of a kind are shown. */
  of?: string;
  /** Parts of the form that no field can show, by their names. */
  special?: Record<string, () => ReactNode>;
  onSet: (patch: Patch, what: string) => void;
}

/**
 * The rows of a form whose conditions hold; what is rarely set is folded away below.
 *
 * The document is the form's only state: each field saves one value on blur. A library of form state would keep
 * a second copy until a submission that there is none of, and add 30 kB, compressed, to the page.
 */
export function FormRows(props: Props) {
  const { values, known = {} } = props;
  const rows = (vocabulary().forms[props.form] ?? []).filter((row) => holds(row.when, values, known));
  const more = rows.filter((row) => row.more);
  const details = useDetails();
  const draw = (row: FormRow, n: number) => (
    <Fragment key={`${row.name}${row.special}${row.fields[0]?.path}${row.heading}${n}`}>
      <OneRow {...props} known={known} row={row} />
    </Fragment>
  );
  return (
    <>
      {partsOf(rows.filter((row) => !row.more)).map(({ heading, rows: own }) =>
        heading ? (
          <Fold key={heading} heading={heading}>
            {own.map(draw)}
          </Fold>
        ) : (
          <Fragment key="">{own.map(draw)}</Fragment>
        ),
      )}
      {more.length > 0 && (
        <details key={String(details)} open={details} className="mb-2.5 text-small">
          <summary className="cursor-pointer">More settings</summary>
          <div className="mt-2">{more.map(draw)}</div>
        </details>
      )}
    </>
  );
}

/** The rows before the first heading, and those below each. */
function partsOf(rows: FormRow[]) {
  const parts: { heading: string; rows: FormRow[] }[] = [{ heading: "", rows: [] }];
  for (const row of rows)
    if (row.heading) parts.push({ heading: row.heading, rows: [] });
    else parts.at(-1)?.rows.push(row);
  return parts;
}

/** More presets than these are a list, unless details are shown. */
const FEW = 3;

function OneRow({ row, values, known = {}, of, special, onSet }: Props & { row: FormRow }) {
  if (row.special) return special?.[row.special]?.() ?? null;
  const save = (sets: Values) => onSet(patchOf(values, sets), row.what + (of ?? ""));
  const presets = row.presets.length > 0 && <Presets row={row} values={values} of={of} onSet={save} />;
  const below = row.presets_in === "below";
  const hint = row.hints.find((one) => holds(one.when, values, known));
  const bare = row.fields.length === 0 && !row.name;
  return (
    <>
      {!bare && (
        <Row
          name={row.name ?? ""}
          unit={unitOf(row, values, known)}
          hint={hint && filled(hint.text, values, known)}
        >
          {row.fields.map((field, n) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: fields of a row keep their order
            <Fragment key={n}>
              {field.before && <span className="quiet text-small">{field.before}</span>}
              <FieldEntry field={field} values={values} known={known} of={of} onSet={save} />
              {field.after && <span className="quiet text-small">{field.after}</span>}
            </Fragment>
          ))}
          {!below && presets}
        </Row>
      )}
      {below && presets}
    </>
  );
}

/** The unit: its singular or plural form, by the number of the first field. */
function unitOf(row: FormRow, values: unknown, known: Known): string {
  const [one, several = one] = row.unit.split("|");
  return filled(valueAt(values, row.fields[0]?.path ?? "") === 1 ? one : several, values, known);
}

interface PresetProps {
  row: FormRow;
  values: unknown;
  of?: string;
  onSet: (sets: Values) => void;
}

/** Usual values, beside fields for any other. */
function Presets({ row, values, of = "", onSet }: PresetProps) {
  const chosen = row.presets.findIndex(({ sets }) =>
    Object.entries(sets).every(([path, value]) => isSame(valueAt(values, path) ?? null, value)),
  );
  const details = useDetails();
  const list = row.presets_in === "list";
  if (list || (!details && row.presets.length > FEW))
    return (
      <select
        className={
          list
            ? "entry min-w-0 flex-1"
            : `entry w-auto min-w-0 max-w-full ${row.presets_in === "below" ? "mb-3 ml-label" : ""}`
        }
        aria-label={list ? `Place${of}` : `Usual values of ${row.what}${of}`}
        value={chosen}
        onChange={(event) => {
          const preset = row.presets[Number(event.target.value)];
          if (preset) onSet(preset.sets);
        }}
      >
        {chosen < 0 && <option value={-1}>{list ? "custom" : "usual values"}</option>}
        {row.presets.map((preset, n) => (
          <option key={preset.label} value={n}>
            {preset.label}
          </option>
        ))}
      </select>
    );
  return (
    <span className={`flex flex-wrap gap-1 ${row.presets_in === "below" ? "mb-3 pl-label" : ""}`}>
      {row.presets.map((preset, n) => (
        <button
          key={preset.label}
          type="button"
          title={preset.title || undefined}
          className={`btn btn-xs font-normal ${/^[\d./°]+$/.test(preset.label) ? "figures" : ""} ${n === chosen ? "btn-primary" : ""}`}
          onClick={() => onSet(preset.sets)}
        >
          {preset.label}
        </button>
      ))}
    </span>
  );
}
