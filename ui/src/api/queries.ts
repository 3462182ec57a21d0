import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { body, client, type Patch, type Run, type Shot } from "./client";

export const shotsQuery = queryOptions({
  queryKey: ["shots"],
  queryFn: () => body(client.GET("/api/shots")),
});

export const sourceQuery = ({ id, revision }: Pick<Shot, "id" | "revision">) =>
  queryOptions({
    queryKey: ["source", id, revision],
    retry: false,
    placeholderData: keepPreviousData,
    // Whoever mends a broken source elsewhere need not press anything here.
    refetchInterval: (query) => (query.state.status === "error" ? 3000 : false),
    queryFn: () => body(client.GET("/api/shots/{shot_id}/source", { params: { path: { shot_id: id } } })),
  });

/** Looked at again and again while the page is in sight: who edits in another program need press nothing here. */
export const sourceStateQuery = (id: string) =>
  queryOptions({
    queryKey: ["source-state", id],
    refetchInterval: 2000,
    queryFn: () =>
      body(client.GET("/api/shots/{shot_id}/source/state", { params: { path: { shot_id: id } } })),
  });

export const codeQuery = (id: string, file: string) =>
  queryOptions({
    queryKey: ["code", id, file],
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    queryFn: () => body(client.GET("/api/shots/{shot_id}/code", { params: { path: { shot_id: id } } })),
  });

/** What of the project waits for the person's word before it runs. */
export const consentQuery = queryOptions({
  queryKey: ["consent"],
  queryFn: () => body(client.GET("/api/consent")),
});

export const printedQuery = (id: string, version: number) =>
  queryOptions({
    queryKey: ["printed", id, version],
    retry: false,
    queryFn: () => body(client.GET("/api/shots/{shot_id}/printed", { params: { path: { shot_id: id } } })),
  });

export const costQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ["cost", id, revision],
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => body(client.GET("/api/shots/{shot_id}/cost", { params: { path: { shot_id: id } } })),
  });

/** How much of a shot is yet to be captured. */
export const leftQuery = ({ id, revision }: Pick<Shot, "id" | "revision">) =>
  queryOptions({
    queryKey: ["left", id, revision],
    retry: false,
    queryFn: () => body(client.GET("/api/shots/{shot_id}/left", { params: { path: { shot_id: id } } })),
  });

export const demoSourcesQuery = queryOptions({
  queryKey: ["demo-sources"],
  queryFn: () => body(client.GET("/api/demo-sources")),
});

export const pushQuery = queryOptions({
  queryKey: ["push"],
  queryFn: () => body(client.GET("/api/push")),
});

export const reelsQuery = queryOptions({
  queryKey: ["reels"],
  queryFn: () => body(client.GET("/api/reels")),
});

export const reelQuery = (id: string) =>
  queryOptions({
    queryKey: ["reel", id],
    queryFn: () => body(client.GET("/api/reels/{reel_id}", { params: { path: { reel_id: id } } })),
  });

export const runsQuery = queryOptions({
  queryKey: ["runs"],
  queryFn: () => body(client.GET("/api/runs")),
});

export const runsOfShotQuery = (id: string) =>
  queryOptions({
    queryKey: ["runs", "of", id],
    queryFn: () => body(client.GET("/api/shots/{shot_id}/runs", { params: { path: { shot_id: id } } })),
  });

export const runQuery = (id: number) =>
  queryOptions({
    queryKey: ["run", id],
    queryFn: () => body(client.GET("/api/runs/{run_id}", { params: { path: { run_id: id } } })),
  });

/** What goes when a run is deleted. */
export const removalQuery = (id: number) =>
  queryOptions({
    queryKey: ["removal", id],
    gcTime: 0,
    queryFn: () => body(client.GET("/api/runs/{run_id}/removal", { params: { path: { run_id: id } } })),
  });

/** States of a run's frames, asked for anew whenever the run says that any changed. */
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

export const recipesQuery = queryOptions({
  queryKey: ["recipes"],
  staleTime: Number.POSITIVE_INFINITY,
  queryFn: () => body(client.GET("/api/recipes")),
});

export const outputQuery = (id: number) =>
  queryOptions({
    queryKey: ["output", id],
    queryFn: () => body(client.GET("/api/outputs/{output_id}", { params: { path: { output_id: id } } })),
  });

export const instantQuery = (shot: Shot, frame: number) =>
  queryOptions({
    queryKey: ["instant", shot.id, shot.revision, frame],
    queryFn: () =>
      body(
        client.GET("/api/shots/{shot_id}/instants/{frame}", {
          params: { path: { shot_id: shot.id, frame } },
        }),
      ),
    placeholderData: keepPreviousData,
  });

export interface Stretch {
  first: number;
  last: number;
  unit: "frames" | "seconds" | "timecode" | "phase";
  marks: number;
  patch: Patch;
}

export const stripQuery = (shot: Shot, query: Stretch) =>
  queryOptions({
    queryKey: ["strip", shot.id, shot.revision, query],
    gcTime: Object.keys(query.patch).length ? 0 : 60_000,
    retry: false,
    queryFn: () =>
      body(
        client.POST("/api/shots/{shot_id}/strip", { params: { path: { shot_id: shot.id } }, body: query }),
      ),
    placeholderData: keepPreviousData,
  });

export const outputsQuery = queryOptions({
  queryKey: ["outputs"],
  queryFn: () => body(client.GET("/api/outputs")),
});
