import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { body, client, type Run } from "../../api/client";
import { runsQuery } from "../../api/queries";
import { removalQuery } from "../../api/runQueries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count, size } from "../../parts/format";
import { active } from "./words";

/** Deletes a run, after listing what is deleted with it. */
export function RemoveRun({ run, onRemoved }: { run: Run; onRemoved?: () => void }) {
  const queries = useQueryClient();
  const [asking, setAsking] = useState(false);
  const dialog = useRef<HTMLDialogElement>(null);
  const { data: goes } = useQuery({ ...removalQuery(run.id), enabled: asking });
  const remove = useMutation({
    mutationFn: () => body(client.DELETE("/api/runs/{run_id}", { params: { path: { run_id: run.id } } })),
    onSuccess: (runs) => {
      queries.setQueryData(runsQuery.queryKey, runs);
      dialog.current?.close();
      onRemoved?.();
      for (const key of ["runs", "shots", "left", "cost"])
        void queries.invalidateQueries({ queryKey: [key] });
    },
  });
  useEffect(() => {
    if (asking) dialog.current?.showModal();
  }, [asking]);
  return (
    <>
      <button
        type="button"
        className="btn btn-ghost btn-sm btn-square"
        aria-label={`Delete run ${run.id}`}
        title={active(run) ? "Stop the run before it is deleted" : "Delete this run"}
        disabled={active(run)}
        onClick={() => setAsking(true)}
      >
        <Trash2 size={16} aria-hidden />
      </button>
      {asking && (
        <dialog
          ref={dialog}
          className="modal"
          aria-label={`Delete run ${run.id}`}
          onClose={() => setAsking(false)}
        >
          <div className="modal-box max-w-md p-4">
            <h2 className="mb-2 text-base font-semibold">
              Delete run {run.id} of {run.title}
            </h2>
            <p className="text-body" data-testid="goes">
              {!goes
                ? "Counting what goes with it…"
                : `${count(goes.frames, "frame")} that no other run shows and ${count(goes.files, "file")} go with it: ${size(goes.bytes)} are freed. This cannot be undone.`}
            </p>
            <ErrorAlert error={remove.error} />
            <div className="mt-4 flex justify-end gap-2">
              <button type="button" className="btn btn-sm" onClick={() => dialog.current?.close()}>
                Keep it
              </button>
              <button
                type="button"
                className="btn btn-error btn-sm"
                disabled={!goes || remove.isPending}
                onClick={() => remove.mutate()}
              >
                Delete{goes ? `, free ${size(goes.bytes)}` : ""}
              </button>
            </div>
          </div>
        </dialog>
      )}
    </>
  );
}
