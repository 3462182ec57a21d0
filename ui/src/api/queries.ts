import { keepPreviousData, queryOptions, useQueryClient } from "@tanstack/react-query";
import { useMemo, useSyncExternalStore } from "react";
import { body, client, Refusal, type Run, type Schemas, type Shot } from "./client";
import { type Based, Orders } from "./orders";

export const shotsQuery = queryOptions({
  queryKey: ["shots"],
  queryFn: () => body(client.GET("/api/shots")),
});

export const shotQuery = (id: string) =>
  queryOptions({
    queryKey: ["shot", id],
    queryFn: async () =>
      Orders.overlaid(await body(client.GET("/api/shots/{shot_id}", { params: { path: { shot_id: id } } }))),
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
  patch: string;
}

export const stripQuery = (shot: Shot, query: Stretch) =>
  queryOptions({
    queryKey: ["strip", shot.id, shot.revision, query],
    gcTime: query.patch ? 0 : 60_000,
    retry: false,
    queryFn: () =>
      body(client.GET("/api/shots/{shot_id}/strip", { params: { path: { shot_id: shot.id }, query } })),
    placeholderData: keepPreviousData,
  });

/** Bytes of a file in base64. */
function base64(file: File): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(String(reader.result).split(",", 2)[1] ?? "");
    reader.onerror = () => reject(new Refusal(`${file.name} could not be read.`));
    reader.readAsDataURL(file);
  });
}

/** Edits of a shot: each is saved as it is made, in order, and shown before it is saved. */
export function useEdits(shotId: string) {
  const queries = useQueryClient();
  const orders = Orders.of(shotId, queries);
  const error = useSyncExternalStore(orders.subscribe, () => orders.error);
  return useMemo(() => {
    const path = { path: { shot_id: shotId } };
    const from = (query: Based) => ({ params: { ...path, query } });
    return {
      error,
      dismiss: orders.dismiss,
      insist: orders.insist,
      edit: orders.edit,
      term: (order: Schemas["TermBody"]) =>
        orders.put((base) => body(client.POST("/api/shots/{shot_id}/terms", { ...from(base), body: order }))),
      play: (tracks: { drive: string; samples: [number, number][] }[]) =>
        orders.put((base) =>
          body(
            client.POST("/api/shots/{shot_id}/played-in", {
              ...from(base),
              body: { tracks, tolerance: 0.01 },
            }),
          ),
        ),
      stagger: (overlap: number) =>
        orders.put((base) =>
          body(client.POST("/api/shots/{shot_id}/stagger", { ...from(base), body: { overlap } })),
        ),
      rig: (order: Schemas["RigBody"]) =>
        orders.put((base) => body(client.POST("/api/shots/{shot_id}/rig", { ...from(base), body: order }))),
      saveView: (order: Schemas["SaveView"]) =>
        orders.put(() => body(client.POST("/api/shots/{shot_id}/views", { params: path, body: order }))),
      addCamera: (order: Schemas["NewCamera"]) =>
        orders.put(() => body(client.POST("/api/shots/{shot_id}/cameras", { params: path, body: order }))),
      way: ({ file, camera }: { file: File; camera: string }) =>
        orders.put(async (base) => {
          const order = { name: file.name, data: await base64(file), camera };
          return body(client.POST("/api/shots/{shot_id}/camera-path", { ...from(base), body: order }));
        }),
      undo: () => orders.put((base) => body(client.POST("/api/shots/{shot_id}/undo", from(base)))),
      redo: () => orders.put((base) => body(client.POST("/api/shots/{shot_id}/redo", from(base)))),
    };
  }, [shotId, orders, error]);
}

export type Edits = ReturnType<typeof useEdits>;
