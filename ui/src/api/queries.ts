import {
  keepPreviousData,
  type QueryClient,
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { body, client, type Patch, Refusal, type Schemas, type Shot } from "./client";

export const shotsQuery = queryOptions({
  queryKey: ["shots"],
  queryFn: () => body(client.GET("/api/shots")),
});

export const shotQuery = (id: string) =>
  queryOptions({
    queryKey: ["shot", id],
    queryFn: () => body(client.GET("/api/shots/{shot_id}", { params: { path: { shot_id: id } } })),
  });

export const sourceQuery = ({ id, revision }: Pick<Shot, "id" | "revision">) =>
  queryOptions({
    queryKey: ["source", id, revision],
    retry: false,
    placeholderData: keepPreviousData,
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

export const statesQuery = (id: number) =>
  queryOptions({
    queryKey: ["states", id],
    queryFn: () => body(client.GET("/api/runs/{run_id}/states", { params: { path: { run_id: id } } })),
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

function keep(queries: QueryClient, shot: Shot) {
  queries.setQueryData(shotQuery(shot.id).queryKey, shot);
  void queries.invalidateQueries({ queryKey: ["shots"] });
}

/** Edits of a shot: each is saved as it is made. */
export function useEdits(shotId: string) {
  const queries = useQueryClient();
  const path = { params: { path: { shot_id: shotId } } };
  const onSuccess = (shot: Shot) => keep(queries, shot);
  const edit = useMutation({
    scope: { id: shotId },
    mutationFn: (order: { patch: Patch; what: string }) =>
      body(client.PATCH("/api/shots/{shot_id}", { ...path, body: order })),
    onSuccess,
  });
  const term = useMutation({
    scope: { id: shotId },
    mutationFn: (order: { term: string; text: string }) =>
      body(client.POST("/api/shots/{shot_id}/terms", { ...path, body: order })),
    onSuccess,
  });
  const play = useMutation({
    scope: { id: shotId },
    mutationFn: (tracks: { drive: string; samples: [number, number][] }[]) =>
      body(client.POST("/api/shots/{shot_id}/played-in", { ...path, body: { tracks, tolerance: 0.01 } })),
    onSuccess,
  });
  const stagger = useMutation({
    scope: { id: shotId },
    mutationFn: (overlap: number) =>
      body(client.POST("/api/shots/{shot_id}/stagger", { ...path, body: { overlap } })),
    onSuccess,
  });
  const rig = useMutation({
    scope: { id: shotId },
    mutationFn: (order: Schemas["RigBody"]) =>
      body(client.POST("/api/shots/{shot_id}/rig", { ...path, body: order })),
    onSuccess,
  });
  const saveView = useMutation({
    scope: { id: shotId },
    mutationFn: (order: Schemas["SaveView"]) =>
      body(client.POST("/api/shots/{shot_id}/views", { ...path, body: order })),
    onSuccess,
  });
  const addCamera = useMutation({
    scope: { id: shotId },
    mutationFn: (order: Schemas["NewCamera"]) =>
      body(client.POST("/api/shots/{shot_id}/cameras", { ...path, body: order })),
    onSuccess,
  });
  const way = useMutation({
    scope: { id: shotId },
    mutationFn: async ({ file, camera }: { file: File; camera: string }) => {
      const order = { name: file.name, data: await base64(file), camera };
      return body(client.POST("/api/shots/{shot_id}/way", { ...path, body: order }));
    },
    onSuccess,
  });
  const undo = useMutation({
    scope: { id: shotId },
    mutationFn: () => body(client.POST("/api/shots/{shot_id}/undo", path)),
    onSuccess,
  });
  const redo = useMutation({
    scope: { id: shotId },
    mutationFn: () => body(client.POST("/api/shots/{shot_id}/redo", path)),
    onSuccess,
  });
  return { edit, term, play, stagger, rig, saveView, addCamera, way, undo, redo };
}
