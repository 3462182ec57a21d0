import { useState } from "react";
import type { Schemas } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { Facts } from "../../parts/Facts";

const USUAL = ["12", "15", "24", "25", "30", "50", "60"];

interface Props {
  stills: Schemas["UploadBody"];
  busy: boolean;
  error: Error | null;
  onRate: (rate: string) => void;
  onCancel: () => void;
}

/** Asks for the rate of numbered pictures, which they do not state. */
export function AskRate({ stills, busy, error, onRate, onCancel }: Props) {
  const [rate, setRate] = useState("");
  const seconds = (stills.frames ?? Number.NaN) / Number(rate);
  return (
    <form
      className="modal-box max-w-lg p-5"
      data-testid="ask-rate"
      onSubmit={(event) => {
        event.preventDefault();
        if (rate.trim()) onRate(rate.trim());
      }}
    >
      <h2 className="mb-2 text-xl font-semibold">How many pictures per second?</h2>
      <Facts facts={stills.about} className="mb-3" />
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
