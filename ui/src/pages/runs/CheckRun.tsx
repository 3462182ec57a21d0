import { useMutation, useQueryClient } from "@tanstack/react-query";
import { CircleCheck, SearchCheck, TriangleAlert } from "lucide-react";
import { body, client, type Run } from "../../api/client";
import { runQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { active } from "./words";

/** Reads every frame of a run again, and lists those that have changed. */
export function CheckRun({ run }: { run: Run }) {
  const queries = useQueryClient();
  const check = useMutation({
    mutationFn: () => body(client.POST("/api/runs/{run_id}/check", { params: { path: { run_id: run.id } } })),
    onSuccess: (next) => queries.setQueryData(runQuery(run.id).queryKey, next),
  });
  const found = run.check;
  const going = found ? active(found) : false;
  const there = run.made + run.kept > 0;
  return (
    <div className="mt-3 flex items-center gap-3 text-small">
      <button
        type="button"
        className="btn btn-sm"
        disabled={going || active(run) || !there}
        title="Read every frame and file and compare them with what was made"
        onClick={() => check.mutate()}
      >
        <SearchCheck size={15} aria-hidden /> Check the frames
      </button>
      <span className="min-w-0 flex-1" role="status" data-testid="check">
        {found && going && (
          <span className="figures flex items-center gap-2">
            <progress
              className="progress progress-primary w-40"
              value={found.progress?.done ?? 0}
              max={found.progress?.count || 1}
              aria-label="Frames checked"
            />
            {found.progress
              ? `${found.progress.done.toLocaleString("en")} of ${found.progress.count.toLocaleString("en")}`
              : "Queued"}
          </span>
        )}
        {found && !going && (
          <span className="flex items-center gap-1.5">
            {found.state === "done" ? (
              <CircleCheck size={15} className="shrink-0 text-primary" aria-hidden />
            ) : (
              <TriangleAlert size={15} className="shrink-0 text-error" aria-hidden />
            )}
            {found.sentence}
          </span>
        )}
      </span>
      <ErrorAlert error={check.error} />
    </div>
  );
}
