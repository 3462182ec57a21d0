import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { client, type Run } from "./client";
import { runQuery } from "./queries";

interface News {
  kind: "run" | "progress" | "output" | "shot" | "consent";
  id?: number | string;
  run?: number;
  done?: number;
  count?: number;
  rate?: number;
  seconds_left?: number | null;
}

/** What the worker passes on: a piece of news, or that there was a gap. */
type Passed = { news: string } | { gap: true };

const POLL_MS = 2000;

/** Listens to the server's news and brings what is on screen up to date. */
export function useNews() {
  const queries = useQueryClient();
  useEffect(() => {
    const stale = (...keys: unknown[][]) => {
      for (const queryKey of keys) void queries.invalidateQueries({ queryKey });
    };
    const take = (news: News) => {
      if (news.kind === "progress") {
        const { done = 0, count = 0, rate = 0, seconds_left = null } = news;
        queries.setQueryData(runQuery(news.run ?? 0).queryKey, (run: Run | undefined) =>
          run ? { ...run, progress: { done, count, rate, seconds_left } } : run,
        );
        stale(["run", news.run], ["runs"]);
      } else if (news.kind === "run") {
        stale(["run", news.id], ["frames", news.id], ["runs"], ["shots"], ["left"], ["cost"]);
      } else if (news.kind === "output") {
        stale(["output", news.id], ["run", news.run], ["runs"], ["shots"]);
      } else if (news.kind === "shot") {
        stale(["shot", news.id], ["shots"], ["consent"]);
      } else if (news.kind === "consent") {
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
  const worker = new SharedWorker(new URL("./news.worker.ts", import.meta.url), { type: "module" });
  const channel = new BroadcastChannel("vexel-news");
  channel.onmessage = ({ data }: MessageEvent<Passed>) => {
    if ("news" in data) take(JSON.parse(data.news) as News);
    else askAnew();
  };
  return () => {
    channel.close();
    worker.port.close();
  };
}

/** Where workers cannot be shared: by asking now and then. */
function poll(take: (news: News) => void, askAnew: () => void) {
  let since = "";
  const ask = async () => {
    if (document.hidden) return;
    const { data } = await client
      .GET("/api/news", { params: { query: { since } } })
      .catch(() => ({ data: undefined }));
    if (!data) return;
    since = data.mark;
    if (data.gap) askAnew();
    for (const news of data.news) take(news as unknown as News);
  };
  const timer = setInterval(() => void ask(), POLL_MS);
  void ask();
  return () => clearInterval(timer);
}
