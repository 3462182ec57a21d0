import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { body, client, type Schemas } from "./client";

type News = Schemas["NewsBody"]["news"][number];

/** What the worker passes on: a piece of news, that the stream is open, or that there was a gap in it. */
type Passed = { news: string } | { open: true } | { gap: true };

/** Up to where this page knows what has happened. */
let mark = "";

/** Notes where the news begins, before anything is asked for: what happens until the stream is open is made up for. */
export async function beginNews(): Promise<void> {
  mark = (await body(client.GET("/api/news", { params: { query: {} } }))).mark;
}

/** What has happened since the mark. */
async function catchUp(take: (news: News) => void, askAnew: () => void) {
  const query = { since: mark };
  const { data } = await client.GET("/api/news", { params: { query } }).catch(() => ({ data: undefined }));
  if (!data) return;
  mark = data.mark;
  if (data.gap) askAnew();
  for (const news of data.news) take(news);
}

type Runs = Schemas["RunBodies"];

type JobNews = Extract<News, { kind: "job" }>;

function withProgress(list: Runs | undefined, { id, progress }: JobNews) {
  return list && { ...list, runs: list.runs.map((one) => (one.id === id ? { ...one, progress } : one)) };
}

/** What a run shows elsewhere when its state is another one, or it is gone. */
const OF_RUNS = ["runs", "shots", "left", "cost", "reel", "reels"];

/** What changed after news of a job. */
function staleAfter({ job, id, run, progress }: JobNews): unknown[][] {
  if (job === "run")
    return progress ? [["run", id]] : [["run", id], ["frames", id], ...OF_RUNS.map((name) => [name])];
  if (job === "file") {
    const own = [["output", id], ["outputs"], ["run", run], ["runs"]];
    return progress ? own : [...own, ["shots"]];
  }
  return job === "check" ? [["run", id]] : [];
}

const POLL_MS = 2000;

/** Listens to the server's news and brings what is on screen up to date. */
export function useNews() {
  const queries = useQueryClient();
  useEffect(() => {
    const stale = (...keys: unknown[][]) => {
      for (const queryKey of keys) void queries.invalidateQueries({ queryKey });
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
          stale(["reel", news.id], ["reels"]);
          break;
        case "shot":
          stale(["shot", news.id], ["shots"], ["consent"], ["reel"]);
          break;
        case "consent":
          void queries.invalidateQueries();
      }
    };
    // After a gap, such as a restart of the server, everything may have changed.
    const askAnew = () => void queries.invalidateQueries();
    return typeof SharedWorker === "undefined" ? poll(take, askAnew) : listen(take, askAnew);
  }, [queries]);
}

/** Through the one stream that all pages of a browser share: it opens few connections to a server, and each tab needs some. */
function listen(take: (news: News) => void, askAnew: () => void) {
  const channel = new BroadcastChannel("vexel-news");
  channel.onmessage = ({ data }: MessageEvent<Passed>) => {
    if ("news" in data) take(JSON.parse(data.news) as News);
    else if ("open" in data) void catchUp(take, askAnew);
    else askAnew();
  };
  const worker = new SharedWorker(new URL("./events.worker.ts", import.meta.url), { type: "module" });
  return () => {
    channel.close();
    worker.port.close();
  };
}

/** Where workers cannot be shared: by asking now and then. */
function poll(take: (news: News) => void, askAnew: () => void) {
  const ask = async () => {
    if (!document.hidden) await catchUp(take, askAnew);
  };
  const timer = setInterval(() => void ask(), POLL_MS);
  void ask();
  return () => clearInterval(timer);
}
