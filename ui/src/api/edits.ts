import { type QueryClient, queryOptions, useQueryClient } from "@tanstack/react-query";
import { useMemo, useSyncExternalStore } from "react";
import { body, client, type Patch, Refusal, type Schemas, type Shot } from "./client";
import { type Based, type DocumentKind, EditQueue, lasting } from "./editQueue";
import { composed, merged } from "./merge";

const path = (id: string) => ({ path: { shot_id: id } });

const SHOTS: DocumentKind<Shot> = {
  key: "shot",
  list: "shots",
  path: (id) => `/api/shots/${id}`,
  fetch: (id) => body(client.GET("/api/shots/{shot_id}", { params: path(id) })),
  save: (id, edit, query) =>
    body(
      client.PATCH("/api/shots/{shot_id}", { params: { ...path(id), query }, body: edit, ...lasting(edit) }),
    ),
  completed: (_, answer) => answer,
  patched,
  shown: patched,
  composed: (first, then) => composed(first, then) ?? null,
  builds: false,
};

function patched(shot: Shot, patch: Patch): Shot {
  return { ...shot, document: merged(shot.document, patch), unsaved: composed(shot.unsaved, patch) };
}

/** The edits of a shot, of which some may not be saved yet. */
export const shotEdits = (id: string, queries: QueryClient) => EditQueue.of(SHOTS, id, queries);

export const shotQuery = (id: string) =>
  queryOptions({
    queryKey: ["shot", id],
    queryFn: ({ client: queries }): Promise<Shot> => shotEdits(id, queries).read(),
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

/** Edits of a shot: each is shown at once and saved in order. */
export function useEdits(shotId: string) {
  const queries = useQueryClient();
  const orders = shotEdits(shotId, queries);
  const error = useSyncExternalStore(orders.subscribe, () => orders.error);
  return useMemo(() => {
    const params = path(shotId);
    const from = (query: Based) => ({ params: { ...params, query } });
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
        orders.put(() => body(client.POST("/api/shots/{shot_id}/views", { params, body: order }))),
      addCamera: (order: Schemas["NewCamera"]) =>
        orders.put(() => body(client.POST("/api/shots/{shot_id}/cameras", { params, body: order }))),
      importPath: ({ file, camera }: { file: File; camera: string }) =>
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
