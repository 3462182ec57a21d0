import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { Facts } from "../../parts/Facts";

const USUAL = ["12", "15", "24", "25", "30", "50", "60"];

interface Props {
  stills: Schemas["UploadBody"];
  busy: boolean;
  error: Error | null;
  onRate: (rate: string, settings: { gaps: string; other_sizes: string }) => void;
  onCancel: () => void;
}

/** Asks for the rate of numbered pictures, which they do not state. */
export function AskRate({ stills, busy, error, onRate, onCancel }: Props) {
  const [rate, setRate] = useState("");
  const [gaps, setGaps] = useState("");
  const [sizes, setSizes] = useState("");
  const has = (name: string) => stills.findings.some((one) => one.name === name);
  const seconds = (stills.frames ?? Number.NaN) / Number(rate);
  return (
    <form
      className="modal-box max-w-lg p-5"
      data-testid="ask-rate"
      onSubmit={(event) => {
        event.preventDefault();
        if (rate.trim()) onRate(rate.trim(), { gaps, other_sizes: sizes });
      }}
    >
      <h2 className="mb-2 text-xl font-semibold">How many pictures per second?</h2>
      <Facts facts={stills.about} className="mb-3" />
      {stills.findings.length > 0 && (
        <ul className="mb-3 flex flex-col gap-1.5" aria-label="Findings" data-testid="stills-findings">
          {stills.findings.map((one) => (
            <li
              key={one.name + one.file}
              className="flex items-center gap-2.5 rounded-box border border-warning/70 p-1.5 text-small"
            >
              {one.picture ? (
                <img src={one.picture} alt={one.file} className="well h-10 w-16 shrink-0 object-contain" />
              ) : (
                <TriangleAlert size={16} className="shrink-0 text-warning" aria-hidden />
              )}
              <span className="min-w-0 break-words">{one.what}.</span>
            </li>
          ))}
        </ul>
      )}
      {has("frames-missing") && (
        <Choose
          label="Missing pictures"
          value={gaps}
          onChoose={setGaps}
          options={[
            ["", "decide later: no capture until then"],
            ["hold", "hold the picture before"],
            ["blend", "blend the neighbours"],
            ["skip", "leave them out"],
          ]}
        />
      )}
      {has("other-size") && (
        <Choose
          label="Other sizes"
          value={sizes}
          onChoose={setSizes}
          options={[
            ["", "show the whole picture"],
            ["cover", "fill the frame, cut off at two edges"],
            ["none", "crop from the middle, not scaled"],
            ["skip", "leave them out"],
          ]}
        />
      )}
      <div className="flex flex-wrap items-center gap-1.5">
        {USUAL.map((usual) => (
          <button
            key={usual}
            type="button"
            aria-pressed={rate === usual}
            className={`btn btn-sm ${rate === usual ? "btn-primary" : "btn-outline"}`}
            onClick={() => setRate(usual)}
          >
            {usual}
          </button>
        ))}
        <input
          className="entry w-28"
          aria-label="Pictures per second"
          placeholder="or 29.97"
          value={rate}
          onChange={(event) => setRate(event.target.value)}
        />
        <span className="quiet">{Number.isFinite(seconds) && `${seconds.toFixed(2)} s`}</span>
      </div>
      <ErrorAlert error={error} />
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn btn-sm" onClick={onCancel}>
          Cancel
        </button>
        <button type="submit" className="btn btn-primary btn-sm" disabled={busy || !rate.trim()}>
          Create the shot
        </button>
      </div>
    </form>
  );
}

/** What happens to some of the pictures. */
const Choose = ({
  label,
  value,
  options,
  onChoose,
}: {
  label: string;
  value: string;
  options: [string, string][];
  onChoose: (value: string) => void;
}) => (
  <label className="mb-3 flex items-center gap-2 text-small">
    <span className="w-32">{label}</span>
    <select
      className="select select-sm w-64"
      value={value}
      onChange={(event) => onChoose(event.target.value)}
    >
      {options.map(([name, words]) => (
        <option key={name} value={name}>
          {words}
        </option>
      ))}
    </select>
  </label>
);
