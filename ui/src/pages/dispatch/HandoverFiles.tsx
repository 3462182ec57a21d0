import { queryOptions, useQuery } from "@tanstack/react-query";
import { body, client, type Run } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { size } from "../../parts/format";

const handoverQuery = (run: Run) =>
  queryOptions({
    queryKey: ["outputs", "handover", run.id],
    queryFn: () => body(client.GET("/api/runs/{run_id}/handover", { params: { path: { run_id: run.id } } })),
  });

/** The files that leave with a hand-over beside the frames, to be looked through before it is made. */
export function HandoverFiles({ run, made }: { run: Run; made: boolean }) {
  const { data, error } = useQuery(handoverQuery(run));
  const shown = data?.files.filter((file) => made || !file.name.startsWith("files/"));
  return (
    <section aria-label="Files of the source" className="text-small">
      <h3 className="mb-1 font-semibold">Source and made files in it</h3>
      <ErrorAlert error={error} />
      {data && (
        <ul className="figures max-h-64 overflow-auto" data-testid="handover-files">
          {shown?.map((file) => (
            <li key={file.name} className="flex gap-2">
              <span className="min-w-0 flex-1 truncate" title={file.name}>
                {file.name}
              </span>
              <span className="quiet">{size(file.bytes)}</span>
            </li>
          ))}
        </ul>
      )}
      <p className="quiet mt-1">
        The frames, their ledger, the shot and the camera path come with them
        {made && ", and so do the other files of the same order"}.
      </p>
    </section>
  );
}
