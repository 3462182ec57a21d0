import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Square } from "lucide-react";
import { costQuery, probeQuery } from "../../api/benchQueries";
import { body, client, type Schemas, type Shot } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count, short, size, sizes, span } from "../../parts/format";

type Cost = Schemas["CostBody"];

/** All that is known of what a capture costs, how it is known, and the probe that makes it known. */
export function CostPanel({ shot }: { shot: Shot }) {
  const { data: cost } = useQuery(costQuery(shot.id, shot.revision));
  const said = cost?.foretold;
  return (
    <section aria-label="Cost of the capture" className="flex flex-col gap-3">
      {said ? <Foretold said={said} shot={shot} /> : cost && <Guess cost={cost} />}
      {shot.document.sweep && (
        <p className="text-small">
          These are of one variant, as if it cost what the shot itself does and none of its frames were there.
          The line above multiplies them by the variants.
        </p>
      )}
      <Probe shot={shot} again={said != null} />
    </section>
  );
}

function Guess({ cost }: { cost: Cost }) {
  const each = `${short(cost.frame_seconds, 2)} s and ${size(Math.round(cost.frame_bytes))} per frame`;
  return (
    <>
      <Rows
        rows={[
          ["Time", `about ${span(cost.seconds)}`],
          ["Frames on disk", `about ${size(cost.bytes)}`],
        ]}
      />
      <p className="quiet text-small">
        {cost.run === null
          ? `A guess from frame ${cost.frame} alone: ${each}.`
          : `As in run ${cost.run}: ${each}.`}{" "}
        A probe makes at least three frames at full size with all workers, and keeps them for the capture.
      </p>
    </>
  );
}

function Foretold({ said, shot }: { said: Schemas["ForetoldBody"]; shot: Shot }) {
  const rows: [string, string][] = [["Frames on disk", sizes(said.bytes.low, said.bytes.high)]];
  if (said.seconds) rows.unshift(["Time", `${span(said.seconds.low)} to ${span(said.seconds.high)}`]);
  if (said.file_bytes)
    rows.push([`File (${shot.document.recipe})`, sizes(said.file_bytes.low, said.file_bytes.high)]);
  if (said.memory) rows.push(["Memory of a worker", sizes(said.memory.low, said.memory.high)]);
  return (
    <>
      <Rows rows={rows} />
      <p className="quiet text-small">
        For {count(said.left, "frame")}
        {shot.document.sweep ? "" : ` that ${said.left === 1 ? "is" : "are"} not there yet`}, from{" "}
        {count(said.frames.length, "probed frame")}, first {said.frames[0]}, last{" "}
        {said.frames[said.frames.length - 1]}.
      </p>
    </>
  );
}

function Rows({ rows }: { rows: [string, string][] }) {
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
      {rows.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="quiet">{name}</dt>
          <dd className="figures text-right">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

function Probe({ shot, again }: { shot: Shot; again: boolean }) {
  const queries = useQueryClient();
  const { data: job } = useQuery(probeQuery(shot.id));
  const path = { params: { path: { shot_id: shot.id } } };
  const onSuccess = (now: Schemas["ProbeBody"]) => queries.setQueryData(probeQuery(shot.id).queryKey, now);
  const begin = useMutation({
    mutationFn: () => body(client.POST("/api/shots/{shot_id}/probe", path)),
    onSuccess,
  });
  const stop = useMutation({
    mutationFn: () => body(client.POST("/api/shots/{shot_id}/probe/stop", path)),
    onSuccess,
  });
  const active = job?.state === "running" || job?.state === "queued";
  const trouble = begin.error ?? (job?.state === "failed" ? job.sentence : null);
  return (
    <>
      {trouble && <ErrorAlert error={trouble} />}
      {active ? (
        <div className="flex items-center gap-3">
          <div className="min-w-0 flex-1 text-small" role="status">
            {job.state === "queued"
              ? "Queued, after the runs before it"
              : job.progress
                ? (job.progress.paused ?? "") ||
                  `${job.progress.done} of ${count(job.progress.count, "probe frame")}`
                : "Starting workers…"}
            <progress
              className="progress progress-primary h-2 w-full"
              value={job.progress?.done ?? 0}
              max={job.progress?.count ?? 1}
              aria-label="Probe frames done"
            />
          </div>
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => stop.mutate()}
            disabled={stop.isPending}
          >
            <Square size={14} aria-hidden /> Stop
          </button>
        </div>
      ) : (
        <button
          type="button"
          className={`btn btn-sm ${again ? "" : "btn-primary"}`}
          onClick={() => begin.mutate()}
          disabled={begin.isPending}
        >
          {again ? "Probe again" : "Probe the shot"}
        </button>
      )}
    </>
  );
}
