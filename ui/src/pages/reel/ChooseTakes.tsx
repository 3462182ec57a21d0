import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { Run } from "../../api/client";
import { runsQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { TakePicture } from "../../parts/takes/TakePicture";
import { takeSettings, takeTitle } from "../../parts/takes/takeText";
import { isWhole } from "./reelItems";

interface Props {
  pending: boolean;
  error: Error | null;
  onChoose: (runs: Run[]) => void;
  onClose: () => void;
}

/** Asks which takes a new reel begins with: they play in the order in which they are pressed. */
export function ChooseTakes({ pending, error, onChoose, onClose }: Props) {
  const dialog = useRef<HTMLDialogElement>(null);
  const { data, error: unread } = useQuery(runsQuery);
  const [chosen, setChosen] = useState<number[]>([]);
  const takes = (data?.runs ?? []).filter(isWhole);
  useEffect(() => dialog.current?.showModal(), []);
  const toggle = (id: number) =>
    setChosen(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
  return (
    <dialog ref={dialog} className="modal" aria-label="New reel" onClose={onClose}>
      <div className="modal-box flex max-h-[85vh] max-w-xl flex-col p-4">
        <h2 className="text-base font-semibold">New reel</h2>
        <p className="quiet mb-2 text-small">
          Press takes in the order in which they play. The first one gives the reel its size and rate.
        </p>
        <ErrorAlert error={error ?? unread} />
        {!data && !unread && <p className="quiet">Loading the takes…</p>}
        {data && takes.length === 0 && (
          <p className="quiet">No take is whole yet. Begin an empty reel, and add clips, stills or titles.</p>
        )}
        <ul className="min-h-0 flex-1 overflow-auto">
          {takes.map((run) => {
            const at = chosen.indexOf(run.id);
            return (
              <li key={run.id}>
                <button
                  type="button"
                  aria-pressed={at >= 0}
                  className={`flex w-full items-center gap-3 rounded-field p-1.5 text-left text-small ${at >= 0 ? "bg-primary/10" : "hover:bg-base-200"}`}
                  onClick={() => toggle(run.id)}
                >
                  <span className="figures w-5 text-right font-semibold text-primary">
                    {at >= 0 ? at + 1 : ""}
                  </span>
                  <TakePicture run={run} />
                  <span className="min-w-0 flex-1">
                    <span className="block truncate">{takeTitle(run)}</span>
                    <span className="quiet figures block truncate text-note">{takeSettings(run)}</span>
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
        <div className="mt-3 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={() => dialog.current?.close()}>
            Cancel
          </button>
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={pending}
            onClick={() => onChoose(chosen.flatMap((id) => takes.find((run) => run.id === id) ?? []))}
          >
            {chosen.length > 0 ? `Make a reel of ${count(chosen.length, "take")}` : "Make an empty reel"}
          </button>
        </div>
      </div>
    </dialog>
  );
}
