import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { body, client, type Run } from "../../api/client";
import { runsQuery } from "../../api/queries";
import { removalQuery } from "../../api/runQueries";
import { DeleteDialog } from "../../parts/DeleteDialog";
import { count, size } from "../../parts/format";
import { active } from "./words";

/** Deletes a run, after listing what is deleted with it. */
export function RemoveRun({ run, onRemoved }: { run: Run; onRemoved?: () => void }) {
  const queries = useQueryClient();
  const [asked, setAsked] = useState(false);
  const { data: goes } = useQuery({ ...removalQuery(run.id), enabled: asked });
  const remove = useMutation({
    mutationFn: () => body(client.DELETE("/api/runs/{run_id}", { params: { path: { run_id: run.id } } })),
    onSuccess: (runs) => {
      queries.setQueryData(runsQuery.queryKey, runs);
      onRemoved?.();
      for (const key of ["runs", "shots", "left", "cost"])
        void queries.invalidateQueries({ queryKey: [key] });
    },
  });
  return (
    <DeleteDialog
      label={`Delete run ${run.id}`}
      heading={`Delete run ${run.id} of ${run.title}`}
      title={active(run) ? "Stop the run before it is deleted" : "Delete this run"}
      disabled={active(run)}
      confirm={!goes || remove.isPending ? null : `Delete, free ${size(goes.bytes)}`}
      error={remove.error}
      onOpen={() => setAsked(true)}
      onConfirm={() => remove.mutate()}
    >
      {!goes
        ? "Counting what goes with it…"
        : `${count(goes.frames, "frame")} that no other run shows and ${count(goes.files, "file")} go with it: ${size(goes.bytes)} are freed. This cannot be undone.`}
    </DeleteDialog>
  );
}
