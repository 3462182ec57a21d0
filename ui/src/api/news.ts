import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Run } from "./client";
import { runQuery } from "./queries";

interface News {
  kind: "run" | "progress" | "output" | "shot";
  id?: number | string;
  run?: number;
  done?: number;
  count?: number;
  rate?: number;
  seconds_left?: number | null;
}

/** Listens to the server's events and brings what is on screen up to date. */
export function useNews() {
  const queries = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/events");
    const stale = (...keys: unknown[][]) => {
      for (const queryKey of keys) void queries.invalidateQueries({ queryKey });
    };
    source.onmessage = (event) => {
      const news = JSON.parse(event.data) as News;
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
        stale(["shot", news.id], ["shots"]);
      }
    };
    // After a gap, such as a restart of the server, everything may have changed.
    let broken = false;
    source.onerror = () => {
      broken = true;
    };
    source.onopen = () => {
      if (broken) void queries.invalidateQueries();
      broken = false;
    };
    return () => source.close();
  }, [queries]);
}
