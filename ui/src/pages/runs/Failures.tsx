import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { RotateCw } from "lucide-react";
import { body, client, type Run } from "../../api/client";
import { runQuery } from "../../api/queries";
import { failuresQuery } from "../../api/runQueries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { active, pictureWords } from "./words";

/** Frames that failed, by their errors; those of one error are made again in one press. */
export function Failures({ run }: { run: Run }) {
  const queries = useQueryClient();
  const { data } = useQuery(failuresQuery(run.id, run.failed));
  const again = useMutation({
    mutationFn: (error: string) =>
      body(
        client.POST("/api/runs/{run_id}/again", {
          params: { path: { run_id: run.id } },
          body: { error, frames: "", camera_pass: null, reason: "failed before" },
        }),
      ),
    onSuccess: (next) => queries.setQueryData(runQuery(run.id).queryKey, next),
  });
  return (
    <section
      className="rounded-box border border-error bg-base-100 p-3"
      aria-label="Failed frames"
      data-testid="failures"
    >
      <h2 className="mb-1.5 font-semibold">Failed frames</h2>
      <ul className="max-h-72 overflow-auto text-small">
        {data?.failures.map((one) => (
          <li key={one.error} className="border-b rule py-1.5 last:border-b-0">
            <b className="figures">
              ✕{" "}
              {one.count === 1
                ? `Frame ${pictureWords(run, one.first)}:`
                : `${count(one.count, "frame")}, first ${pictureWords(run, one.first)}:`}
            </b>{" "}
            <span className="break-words">{one.error}</span>
            <button
              type="button"
              className="btn btn-xs mt-1 block"
              disabled={active(run) || again.isPending}
              onClick={() => again.mutate(one.error)}
            >
              <RotateCw size={13} aria-hidden /> Make {one.count === 1 ? "it" : "these"} again
            </button>
          </li>
        ))}
      </ul>
      {again.error && <ErrorAlert error={again.error} />}
    </section>
  );
}
