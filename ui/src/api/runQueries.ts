import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { body, client, type Run } from "./client";

/** States of a run's frames, requested again whenever the run reports a change. */
export const statesQuery = (run: Run | undefined) =>
  queryOptions({
    queryKey: ["states", run?.id, run?.state, run?.progress?.done ?? null, run?.made, run?.kept, run?.failed],
    placeholderData: keepPreviousData,
    queryFn: () =>
      body(client.GET("/api/runs/{run_id}/states", { params: { path: { run_id: run?.id ?? 0 } } })),
  });

export const framesQuery = (id: number, state: string, offset: number, limit: number) =>
  queryOptions({
    queryKey: ["frames", id, state, offset, limit],
    queryFn: () =>
      body(
        client.GET("/api/runs/{run_id}/frames", {
          params: { path: { run_id: id }, query: { state, offset, limit } },
        }),
      ),
  });

/** Runs in the order in which they are made, with the time that all of them take. */
export const queueQuery = queryOptions({
  queryKey: ["queue"],
  queryFn: () => body(client.GET("/api/queue")),
});

/** Errors of a run's failed frames, the commonest first. */
export const failuresQuery = (id: number, failed: number) =>
  queryOptions({
    queryKey: ["failures", id, failed],
    queryFn: () => body(client.GET("/api/runs/{run_id}/failures", { params: { path: { run_id: id } } })),
  });

/** What goes when a run is deleted. */
export const removalQuery = (id: number) =>
  queryOptions({
    queryKey: ["removal", id],
    gcTime: 0,
    queryFn: () => body(client.GET("/api/runs/{run_id}/removal", { params: { path: { run_id: id } } })),
  });
