import { type QueryClient, type QueryFilters, useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { body, client, type Schemas } from "./client";

type News = Schemas["NewsBody"]["news"][number];

/** What the worker passes on: news, an opened stream, a gap in it, and each second whether the server still answers. */
type Passed = { news: string } | { open: true } | { gap: true } | { lost: boolean };

/** Up to where this page knows what has happened. */
let mark = "";

/** Notes where the news begins, before anything is asked for: what happens until the stream is open is made up for. */
export async function beginNews(): Promise<void> {
  mark = (await body(client.GET("/api/news", { params: { query: {} } }))).mark;
}

let lost = false;
const watching = new Set<() => void>();

function setLost(now: boolean) {
  if (lost === now) return;
  lost = now;
  for (const tell of watching) tell();
}

function watch(tell: () => void) {
  watching.add(tell);
  return () => watching.delete(tell);
}

/** Whether the server has stopped answering. */
export const useServerLost = () => useSyncExternalStore(watch, () => lost);

/** What has happened since the mark. */
async function catchUp(take: (news: News) => void, askAll: () => void) {
  const query = { since: mark };
  const answer = await client.GET("/api/news", { params: { query } }).catch(() => null);
  setLost(answer === null);
  const data = answer?.data;
  if (!data) return;
  mark = data.mark;
  if (data.gap) askAll();
  for (const news of data.news) take(news);
}

type Runs = Schemas["RunBodies"];

type JobNews = Extract<News, { kind: "job" }>;

function withProgress(list: Runs | undefined, { id, progress }: JobNews) {
  return list && { ...list, runs: list.runs.map((one) => (one.id === id ? { ...one, progress } : one)) };
}

/** What a run shows elsewhere when its state is another one, or it is gone. */
const OF_RUNS = ["runs", "shots", "left", "cost", "reel", "reels", "sweep", "queue", "storage", "review"];

/** What changed after news of a job. */
function staleAfter({ job, id, run, progress }: JobNews): unknown[][] {
  if (job === "run")
    // The state of one is also what others wait for.
    return progress ? [["run", id], ["queue"]] : [["run"], ["frames", id], ...OF_RUNS.map((name) => [name])];
  if (job === "file") {
    const own = [["output", id], ["outputs"], ["run", run], ["runs"]];
    return progress ? own : [...own, ["shots"]];
  }
  if (job === "probe")
    return progress
      ? [["probe", id]]
      : [
          ["probe", id],
          ["cost", id],
          ["left", id],
        ];
  if (job === "figures") return [["figures"]];
  return job === "check" ? [["run", id]] : [];
}

/**
 * Requests again what has changed. An answer that is still on its way may show the state before the change, so one more
 * request follows it; there is never more than one at a time, however much news comes.
 */
function refresh(queries: QueryClient, filters: QueryFilters = {}) {
  // A hidden tab asks when it is shown again.
  const refetchType = document.hidden ? "none" : "active";
  const asked = queries.getQueryCache().findAll({ ...filters, fetchStatus: "fetching" });
  void queries.invalidateQueries({ ...filters, refetchType }, { cancelRefetch: false });
  for (const query of asked) {
    if (followed.has(query)) continue;
    followed.add(query);
    void query.promise
      ?.catch(() => undefined)
      .then(() => {
        followed.delete(query);
        return queries.invalidateQueries({ queryKey: query.queryKey, exact: true, refetchType });
      });
  }
}

/** Requests after which another one follows. */
const followed = new WeakSet<object>();

const POLL_MS = 2000;

/** When the shared worker was heard last. */
let heard = 0;

/** Listens to the server's news and refreshes what is on screen. */
export function useNews() {
  const queries = useQueryClient();
  useEffect(() => {
    const stale = (...keys: unknown[][]) => {
      for (const queryKey of keys) refresh(queries, { queryKey });
    };
    const take = (news: News) => {
      switch (news.kind) {
        case "job":
          // Lists of runs are updated in place: a long run sends two such pieces a second.
          if (news.job === "run" && news.progress)
            queries.setQueriesData({ queryKey: ["runs"] }, (list: Runs | undefined) =>
              withProgress(list, news),
            );
          stale(...staleAfter(news));
          break;
        case "reel":
          stale(["reel", news.id], ["reels"], ["review"]);
          break;
        case "shot":
          stale(["shot", news.id], ["shots"], ["consent"], ["reel"]);
          break;
        case "consent":
          refresh(queries);
      }
    };
    // After a gap, such as a restart of the server, everything may have changed.
    const askAll = () => refresh(queries);
    const stops = [poll(take, askAll)];
    if (window.SharedWorker) stops.push(listen(take, askAll));
    return () => {
      for (const stop of stops) stop();
    };
  }, [queries]);
}

/** Through the one stream that all pages of a browser share: it opens few connections to a server, and each tab needs some. */
function listen(take: (news: News) => void, askAll: () => void) {
  const channel = new BroadcastChannel("vexel-news");
  channel.onmessage = ({ data }: MessageEvent<Passed>) => {
    heard = Date.now();
    if ("news" in data) take(JSON.parse(data.news) as News);
    else if ("open" in data) void catchUp(take, askAll);
    else if ("lost" in data) setLost(data.lost);
    else askAll();
  };
  const worker = new SharedWorker(new URL("./events.worker.ts", import.meta.url), { type: "module" });
  return () => {
    channel.close();
    worker.port.close();
  };
}

/** By asking, where workers cannot be shared, or while the shared one is silent: it may have failed to start. */
function poll(take: (news: News) => void, askAll: () => void) {
  let asked = false;
  const timer = setInterval(async () => {
    if (asked || document.hidden || Date.now() - heard < 2 * POLL_MS) return;
    asked = true;
    await catchUp(take, askAll);
    asked = false;
  }, POLL_MS);
  return () => clearInterval(timer);
}
