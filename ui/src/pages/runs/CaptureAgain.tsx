import { useMutation, useQueryClient } from "@tanstack/react-query";
import { RotateCw } from "lucide-react";
import { useId, useState } from "react";
import { body, client, type Run } from "../../api/client";
import { runQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { active } from "./words";

/** Frames of a run that are captured again, by their numbers, for a reason that is kept with them. */
export function CaptureAgain({ run, shown }: { run: Run; shown: number }) {
  const queries = useQueryClient();
  const [frames, setFrames] = useState("");
  const [reason, setReason] = useState("");
  const id = useId();
  const again = useMutation({
    mutationFn: () =>
      body(
        client.POST("/api/runs/{run_id}/again", {
          params: { path: { run_id: run.id } },
          body: { error: null, frames: frames || String(shown), camera_pass: null, reason },
        }),
      ),
    onSuccess: (next) => {
      setFrames("");
      setReason("");
      queries.setQueryData(runQuery(run.id).queryKey, next);
    },
  });
  if (shown < 0) return null;
  return (
    <details className="mt-2 text-small">
      <summary className="cursor-pointer">Capture frames again</summary>
      <form
        className="mt-1.5 flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          again.mutate();
        }}
      >
        <div>
          <label className="block text-note" htmlFor={`${id}-frames`}>
            Frames, such as 12,40-62x2
          </label>
          <input
            id={`${id}-frames`}
            className="entry w-44"
            value={frames}
            placeholder={`${shown}, the shown one`}
            onChange={(event) => setFrames(event.target.value)}
          />
        </div>
        <div className="min-w-40 flex-1">
          <label className="block text-note" htmlFor={`${id}-reason`}>
            Reason, kept with the frames
          </label>
          <input
            id={`${id}-reason`}
            className="entry w-full"
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </div>
        <button
          type="submit"
          className="btn btn-sm"
          disabled={active(run) || again.isPending || reason.trim() === ""}
        >
          <RotateCw size={14} aria-hidden /> Capture again
        </button>
      </form>
      {again.error && <ErrorAlert error={again.error} />}
    </details>
  );
}
