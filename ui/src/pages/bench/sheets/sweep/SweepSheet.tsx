import { useMutation, useQuery } from "@tanstack/react-query";
import { LayoutGrid, Plus } from "lucide-react";
import { useRef } from "react";
import { Link } from "react-router";
import { settingsQuery, sweepQuery } from "../../../../api/benchQueries";
import { body, client, type Schemas, type Shot } from "../../../../api/client";
import { ErrorAlert } from "../../../../parts/ErrorAlert";
import { Choice } from "../../../../parts/entries/Choice";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { count } from "../../../../parts/format";
import { useBench } from "../../context";
import { Axis } from "./Axis";

export type Sweep = NonNullable<Shot["document"]["sweep"]>;
type AxisSpec = Sweep["axes"][number];

const MAKES: { value: Sweep["makes"]; label: string; hint: string }[] = [
  { value: "shots", label: "Whole shots", hint: "Each variant has a take of its own" },
  { value: "stills", label: "One frame each", hint: "One take: a frame of each variant, seen alike" },
  { value: "film", label: "A film", hint: "One take: frame 1 is variant 1, frame 2 is variant 2" },
];

/** What the shot's variants differ in, and what is made of them. */
export function SweepSheet() {
  const { shot, edit } = useBench();
  const sweep = shot.document.sweep;
  const { data: offered } = useQuery(settingsQuery(shot.id, shot.revision));
  const { data: found } = useQuery(sweepQuery(shot.id, shot.revision));
  const settings = offered?.settings ?? [];
  const set = (patch: Partial<Sweep>, what: string) => edit({ sweep: patch }, what);
  const axes = sweep?.axes ?? [];
  const add = () => {
    const free = settings.find((one) => !axes.some((axis) => axis.over === one.over));
    if (free) set({ axes: [...axes, firstValues(free)] }, "an axis");
  };
  const change = (at: number, axis: AxisSpec | null) =>
    axis === null && axes.length === 1
      ? edit({ sweep: null }, "the variants")
      : set({ axes: axes.flatMap((one, n) => (n !== at ? [one] : axis ? [axis] : [])) }, "an axis");
  return (
    <div className="flex flex-col gap-3 text-small">
      {sweep && found && (
        <p className="figures" data-testid="sweep-size">
          {found.trouble ? "" : found.sentence}
        </p>
      )}
      {found?.trouble && <ErrorAlert error={found.trouble} />}
      {axes.map((axis, n) => (
        <Axis key={axis.over} axis={axis} settings={settings} onChange={(next) => change(n, next)} />
      ))}
      {!sweep?.table && (
        <button type="button" className="btn btn-sm" onClick={add} disabled={settings.length === 0}>
          <Plus size={15} aria-hidden /> {sweep ? "Add an axis" : "Vary a value"}
        </button>
      )}
      <Table sweep={sweep ?? null} />
      {sweep && axes.length > 1 && (
        <Choice
          label="How axes combine"
          value={sweep.join}
          options={[
            { value: "crossed", label: "Crossed", hint: "Every value with every other" },
            { value: "paired", label: "Paired", hint: "First with first, second with second" },
          ]}
          onChoose={(join) => set({ join }, "how axes combine")}
        />
      )}
      {sweep && axes.some((axis) => axis.values?.length === 0 && axis.steps == null) && (
        <Sampling sample={sweep.sample} onSet={(sample) => set({ sample }, "the samples")} />
      )}
      {sweep && (
        <>
          <fieldset className="flex flex-col gap-1" aria-label="What is made">
            <legend className="mb-1 font-semibold">What is made</legend>
            {MAKES.map(({ value, label, hint }) => (
              <label key={value} className="flex items-start gap-2">
                <input
                  type="radio"
                  className="radio radio-sm radio-primary mt-0.5"
                  checked={sweep.makes === value}
                  onChange={() => set({ makes: value }, "what is made")}
                />
                <span>
                  {label}
                  <span className="quiet block text-note">{hint}</span>
                </span>
              </label>
            ))}
          </fieldset>
          <div>
            <span className="mb-1 block font-semibold">Name of a variant</span>
            <TextEntry
              label="Name of a variant"
              value={sweep.name}
              placeholder={axes.map((axis) => `{${axis.over.split(":").pop()}}`).join(" ") || "{variant}"}
              onCommit={(name) => set({ name }, "the names of variants")}
            />
            <p className="quiet mt-0.5 text-note">
              Fields: {"{variant}"} for its number, and each axis by its name. Empty names all values.
            </p>
          </div>
          <Link to={`/shots/${shot.id}/variants`} className="btn btn-primary btn-sm">
            <LayoutGrid size={15} aria-hidden /> Open the contact sheet
            {found && found.kept > 0 && `, ${count(found.kept, "variant")}`}
          </Link>
          <button type="button" className="btn btn-sm" onClick={() => edit({ sweep: null }, "the variants")}>
            Remove all variants
          </button>
        </>
      )}
    </div>
  );
}

/** An axis that begins with values around the shot's own. */
function firstValues(setting: Schemas["SettingBody"]): AxisSpec {
  const { over, value, low, high, choices } = setting;
  if (typeof value === "string") return { over, values: choices ?? [value] } as AxisSpec;
  const from = low ?? (value ?? 1) * 0.5;
  const to = high ?? (value ?? 1) * 1.5;
  return { over, first: from, last: to, steps: 3 } as AxisSpec;
}

function Sampling({ sample, onSet }: { sample: Sweep["sample"]; onSet: (next: Sweep["sample"]) => void }) {
  return (
    <fieldset className="flex flex-wrap items-end gap-3" aria-label="Samples">
      <div>
        <span className="mb-0.5 block">Samples</span>
        <NumberEntry
          label="Samples"
          value={sample.count}
          min={1}
          max={10_000}
          whole
          width="4.5rem"
          onCommit={(next) => onSet({ ...sample, count: next })}
        />
      </div>
      <label>
        <span className="mb-0.5 block">Method</span>
        <select
          className="select select-sm"
          aria-label="Sampling method"
          value={sample.method}
          onChange={(event) => onSet({ ...sample, method: event.target.value as typeof sample.method })}
        >
          <option value="latin">Latin hypercube</option>
          <option value="sobol">Sobol sequence</option>
          <option value="uniform">Uniform</option>
        </select>
      </label>
      <div>
        <span className="mb-0.5 block">Seed</span>
        <NumberEntry
          label="Seed"
          value={sample.seed}
          min={0}
          max={4_294_967_295}
          whole
          width="5rem"
          onCommit={(next) => onSet({ ...sample, seed: next })}
        />
      </div>
    </fieldset>
  );
}

/** Variants as rows of a table, in place of axes. */
function Table({ sweep }: { sweep: Sweep | null }) {
  const { edit } = useBench();
  const input = useRef<HTMLInputElement>(null);
  const read = useMutation({
    mutationFn: async (file: File) =>
      body(client.POST("/api/sweep/table", { body: { text: await file.text() } })),
    onSuccess: ({ table }) => edit({ sweep: { axes: [], table } }, "the table of variants"),
  });
  return (
    <div>
      {sweep?.table && (
        <p className="mb-1">
          {count(sweep.table.rows.length, "row")} with {sweep.table.columns.join(", ")}.
        </p>
      )}
      <input
        ref={input}
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        className="hidden"
        aria-label="Table of variants"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) read.mutate(file);
        }}
      />
      <button type="button" className="btn btn-sm w-full" onClick={() => input.current?.click()}>
        {sweep?.table ? "Replace the table" : "Read variants from a CSV table"}
      </button>
      <p className="quiet mt-0.5 text-note">
        One row a variant, one column a dial; a column called name gives names.
      </p>
      {read.error && <ErrorAlert error={read.error} />}
    </div>
  );
}
