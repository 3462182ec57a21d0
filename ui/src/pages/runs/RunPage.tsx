import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Pause, Play, Square, TriangleAlert } from "lucide-react";
import { Link, useNavigate, useParams } from "react-router";
import { body, client, type Schemas } from "../../api/client";
import { runQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { short, size, sizes, span, when } from "../../parts/format";
import { PageHead } from "../../parts/PageHead";
import { CheckRun } from "./CheckRun";
import { Compile } from "./Compile";
import { Failures } from "./Failures";
import { FrameCells } from "./FrameCells";
import { ReadyFile } from "./ReadyFile";
import { RemoveRun } from "./RemoveRun";
import { active, doneOf, stateWords } from "./words";

/** One run: how it stands, its frames, and the files that come of it. */
export function RunPage() {
  const id = Number(useParams().runId);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data: run, error } = useQuery(runQuery(id));
  const path = { params: { path: { run_id: id } } };
  const onSuccess = (next: NonNullable<typeof run>) => queries.setQueryData(runQuery(id).queryKey, next);
  const stop = useMutation({
    mutationFn: () => body(client.POST("/api/runs/{run_id}/stop", path)),
    onSuccess,
  });
  const pause = useMutation({
    mutationFn: () =>
      body(client.POST(run?.paused ? "/api/runs/{run_id}/continue" : "/api/runs/{run_id}/pause", path)),
    onSuccess,
  });
  const resume = useMutation({
    mutationFn: () => body(client.POST("/api/runs/{run_id}/resume", path)),
    onSuccess,
  });
  if (error && !run)
    return (
      <div className="mx-auto max-w-2xl p-8">
        <ErrorAlert error={error} />
      </div>
    );
  if (!run)
    return (
      <div className="p-8">
        <PageHead title="Run">Opening the run…</PageHead>
      </div>
    );

  const done = doneOf(run);
  const progress = run.progress;
  return (
    <div className="mx-auto max-w-6xl px-6 py-4 max-sm:px-3">
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-2xl font-semibold">{run.title}</h1>
        <span className="quiet">
          {run.state !== "done" ? `run ${run.id}` : `take ${run.id}, made by run ${run.id}`}
          {run.draft && " · draft"} · {when(run.created)}
        </span>
        <span className="flex-1" />
        {run.made + run.kept > 0 && (
          <Link to={`/review/take/${run.id}`} className="link link-primary">
            Review
          </Link>
        )}
        <Link to={`/shots/${run.shot_id}`} className="link link-primary">
          Open shot
        </Link>
        <RemoveRun run={run} onRemoved={() => navigate("/runs")} />
      </header>
      <ReadyFile run={run} />
      <section className="rounded-box border rule bg-base-100 p-4" aria-label="Progress">
        <div className="flex items-center gap-5">
          <div className="min-w-0 flex-1">
            <div className="mb-1 flex items-baseline gap-3">
              <span className="figures text-xl font-semibold" data-testid="done">
                {done.toLocaleString("en")} of {run.count.toLocaleString("en")}
              </span>
              <span data-testid="run-state">{stateWords(run)}</span>
              <span className="flex-1" />
              {active(run) && (
                <span className="figures text-small">
                  {progress?.rate
                    ? `${short(progress.rate, 2)} frames per second`
                    : run.state === "running" && !progress?.paused
                      ? "Starting workers…"
                      : ""}
                  {progress?.seconds_left != null && ` · ${span(progress.seconds_left)} left`}
                </span>
              )}
            </div>
            {progress?.paused && (
              <p className="mb-1.5 flex items-start gap-1.5 text-small text-warning" role="status">
                <TriangleAlert size={15} className="mt-px shrink-0" aria-hidden />
                {progress.paused}
              </p>
            )}
            <progress
              className="progress progress-primary h-2.5 w-full"
              value={done}
              max={run.count}
              aria-label="Frames done"
            />
          </div>
          {run.state === "running" && (
            <button type="button" className="btn" onClick={() => pause.mutate()} disabled={pause.isPending}>
              {run.paused ? <Play size={16} aria-hidden /> : <Pause size={16} aria-hidden />}
              {run.paused ? "Continue" : "Pause"}
            </button>
          )}
          {active(run) ? (
            <button type="button" className="btn" onClick={() => stop.mutate()} disabled={stop.isPending}>
              <Square size={16} aria-hidden /> Stop
            </button>
          ) : (
            run.made + run.kept < run.count && (
              <button
                type="button"
                className="btn btn-primary"
                onClick={() => resume.mutate()}
                disabled={resume.isPending}
              >
                <Play size={16} aria-hidden /> Resume,{" "}
                {(run.count - run.made - run.kept).toLocaleString("en")} left
              </button>
            )
          )}
        </div>
        <dl className="figures mt-3 flex flex-wrap gap-x-6 gap-y-1 text-small">
          <Fact name="made" value={run.made.toLocaleString("en")} />
          <Fact name="reused" value={run.kept.toLocaleString("en")} />
          <Fact name="failed" value={run.failed.toLocaleString("en")} alarm={run.failed > 0} />
          <Fact name="on disk" value={size(run.bytes)} />
          <Fact name="took" value={span(run.seconds)} />
          <Fact name="frames" value={run.size} />
          <Fact name="plan" value={run.summary} />
        </dl>
        {run.foretold && <Foretold said={run.foretold} run={run} />}
        <CheckRun run={run} />
        {(run.message || stop.error || resume.error) && (
          <div className="mt-3">
            <ErrorAlert error={run.message || stop.error || resume.error} />
          </div>
        )}
      </section>
      <div className="mt-4 grid grid-cols-[1fr_400px] gap-4 max-lg:grid-cols-1">
        <FrameCells run={run} />
        <div className="flex flex-col gap-4">
          <Compile run={run} />
          {run.failed > 0 && <Failures run={run} />}
        </div>
      </div>
    </div>
  );
}

/** What a probe said before the run, beside what came. */
function Foretold({ said, run }: { said: Schemas["ForetoldBody"]; run: Schemas["RunBody"] }) {
  const film = run.outputs.filter((one) => one.state === "done" && one.recipe === run.recipe);
  const ended = !active(run) && run.seconds > 0;
  const rows: [string, string, string][] = [];
  if (said.seconds)
    rows.push([
      "time",
      `${span(said.seconds.low)} to ${span(said.seconds.high)}`,
      ended ? span(run.seconds) : "",
    ]);
  rows.push(["frames", sizes(said.bytes.low, said.bytes.high), ended ? size(run.made_bytes) : ""]);
  if (said.file_bytes) {
    const came = film.reduce((sum, one) => sum + (one.receipt?.bytes ?? 0), 0);
    rows.push(["file", sizes(said.file_bytes.low, said.file_bytes.high), came ? size(came) : ""]);
  }
  return (
    <dl className="figures mt-2 flex flex-wrap gap-x-6 gap-y-1 text-small" data-testid="foretold">
      {rows.map(([name, foretold, came]) => (
        <Fact key={name} name={`${name} foretold`} value={came ? `${foretold}, came ${came}` : foretold} />
      ))}
    </dl>
  );
}

function Fact({ name, value, alarm }: { name: string; value: string; alarm?: boolean }) {
  return (
    <div className="flex gap-1.5">
      <dt className="quiet font-sans">{name}</dt>
      <dd className={alarm ? "font-semibold text-error" : ""}>{value}</dd>
    </div>
  );
}
