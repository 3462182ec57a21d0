import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Run } from "../../api/client";
import { runQuery, runsQuery } from "../../api/queries";
import { span } from "../format";
import { keptWish } from "./notifyWish";

const PREFIX = /^[▶‖✓✕] [^·]*· /u;

/** The running capture, in the top bar and in the tab's title, with a notification when it ends. */
export function RunNews() {
  useTold();
  return <UnderWay />;
}

function UnderWay() {
  const { data } = useQuery(runsQuery);
  const first = data?.runs.find((run) => run.state === "running");
  const { data: run } = useQuery({ ...runQuery(first?.id ?? 0), enabled: first !== undefined });
  if (!first || !run) return null;
  const progress = run.progress;
  const done = progress?.done ?? run.made + run.kept;
  return (
    <Link
      to={`/runs/${run.id}`}
      className="figures mr-3 flex shrink-0 items-center gap-2 text-small max-sm:mr-0"
      data-testid="under-way"
    >
      <progress
        className="progress progress-primary w-24 max-md:hidden"
        value={done}
        max={run.count}
        aria-label="Run in progress"
      />
      {done} of {run.count}
      {progress?.seconds_left != null && (
        <span className="quiet max-md:hidden">{span(progress.seconds_left)} left</span>
      )}
    </Link>
  );
}

/** Reports running and ended captures in the tab's title, and by a notification. */
function useTold() {
  const { data } = useQuery(runsQuery);
  const before = useRef<Map<number, string>>(new Map());
  useEffect(() => {
    if (!data) return;
    const states = new Map(data.runs.map((run) => [run.id, stateOf(run)]));
    for (const run of data.runs) {
      const was = before.current.get(run.id);
      const now = stateOf(run);
      if (!was || was === now || was === "done" || now === "running" || now === "queued") continue;
      if (run.state === "stopped" && !run.message) continue;
      tell(run, now);
      if (document.hidden) prefix(`${now === "done" ? "✓" : "✕"} ${now} · `);
    }
    before.current = states;
    const running = data.runs.find((run) => run.state === "running");
    if (running) prefix(`${stateOf(running) === "paused" ? "‖" : "▶"} ${share(running)} % · `);
    else if (!document.hidden) prefix("");
  }, [data]);
  useEffect(() => {
    const seen = () => {
      if (!document.hidden && !document.title.startsWith("▶")) prefix("");
    };
    document.addEventListener("visibilitychange", seen);
    return () => document.removeEventListener("visibilitychange", seen);
  }, []);
}

const stateOf = (run: Run) => (run.state === "running" && run.progress?.paused ? "paused" : run.state);

const share = (run: Run) => {
  const done = run.progress?.done ?? run.made + run.kept + run.failed;
  return Math.floor((100 * done) / Math.max(run.count, 1));
};

function prefix(text: string) {
  const title = text + document.title.replace(PREFIX, "");
  if (title !== document.title) document.title = title;
}

function tell(run: Run, state: string) {
  if (!keptWish()) return;
  new Notification(`${run.title}: ${state}`, {
    body: run.progress?.paused || run.message || `Run ${run.id}, ${run.summary}`,
    tag: `vexel-run-${run.id}`,
  });
}
