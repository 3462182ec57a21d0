import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { body, client, type Patch, type Shot } from "./client";

export const sourceQuery = ({ id, revision }: Pick<Shot, "id" | "revision">) =>
  queryOptions({
    queryKey: ["source", id, revision],
    retry: false,
    placeholderData: keepPreviousData,
    // Changes of its files are noticed at once. Other causes, such as a missing library, are checked now and then.
    refetchInterval: (query) => (query.state.status === "error" ? 30_000 : false),
    queryFn: () => body(client.GET("/api/shots/{shot_id}/source", { params: { path: { shot_id: id } } })),
  });

/** The code of the project that waits for a review. */
export const consentQuery = queryOptions({
  queryKey: ["consent"],
  queryFn: () => body(client.GET("/api/consent")),
});

export const demoSourcesQuery = queryOptions({
  queryKey: ["demo-sources"],
  queryFn: () => body(client.GET("/api/demo-sources")),
});

export const pushQuery = queryOptions({
  queryKey: ["push"],
  queryFn: () => body(client.GET("/api/push")),
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
