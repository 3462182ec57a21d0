import { Camera, ChevronDown } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Dropdown } from "../../parts/Dropdown";
import { count } from "../../parts/format";
import { LimitsOfRun } from "../bench/capture/LimitsOfRun";
import type { RunLimits } from "../bench/capture/useCapture";

type Order = Schemas["SweepOrder"];

interface Props {
  kept: number;
  pictures: number;
  marked: number;
  pending: boolean;
  onCapture: (order: Order) => void;
}

/** Captures the marked variants, or all; the arrow beside it offers less of each, and limits. */
export function CaptureVariants({ kept, pictures, marked, pending, onCapture }: Props) {
  const [limits, setLimits] = useState<RunLimits>({ frame_seconds: null, tries: 1 });
  const off = pending || kept === 0;
  const order = (wanted: Partial<Order>) =>
    onCapture({ draft: false, to_file: true, favourites: false, ...limits, ...wanted });
  return (
    <>
      {marked > 0 && (
        <button
          type="button"
          className="btn btn-sm"
          disabled={pending}
          onClick={() => order({ favourites: true })}
        >
          <Camera size={16} aria-hidden /> Capture {marked.toLocaleString("en")} marked
        </button>
      )}
      <div className="flex items-stretch">
        <button
          type="button"
          className="btn btn-primary btn-sm rounded-r-none"
          disabled={off}
          onClick={() => order({})}
          data-testid="capture-variants"
        >
          <Camera size={16} aria-hidden /> Capture {count(kept, "variant")}, {count(pictures, "picture")}
        </button>
        <Dropdown
          label="Drafts, frames only, limits"
          className="btn btn-primary btn-sm rounded-l-none border-l border-l-primary-content/40 px-1.5"
          summary={<ChevronDown size={17} aria-hidden />}
        >
          {(close) => (
            <div className="dropdown-content z-40 mt-1 w-80 rounded-box border rule bg-base-100 p-1 shadow-lg">
              {(
                [
                  ["Drafts", "All frames, small, with one sample", { draft: true }],
                  ["Frames only", "No video files are made yet", { to_file: false }],
                ] as const
              ).map(([label, hint, wanted]) => (
                <button
                  key={label}
                  type="button"
                  className="block w-full rounded-field px-3 py-1.5 text-left hover:bg-base-200 disabled:opacity-50"
                  disabled={off}
                  onClick={() => {
                    close();
                    order(wanted);
                  }}
                >
                  <span className="block font-semibold">{label}</span>
                  <span className="quiet block text-note">{hint}</span>
                </button>
              ))}
              <div className="border-t rule px-3 py-2">
                <LimitsOfRun limits={limits} onChange={setLimits} />
              </div>
            </div>
          )}
        </Dropdown>
      </div>
    </>
  );
}
