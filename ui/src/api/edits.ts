import { queryOptions, useQueryClient } from "@tanstack/react-query";
import { useMemo, useSyncExternalStore } from "react";
import { body, client, Refusal, type Schemas } from "./client";
import { type Based, Orders } from "./orders";

export const shotQuery = (id: string) =>
  queryOptions({
    queryKey: ["shot", id],
    queryFn: async () =>
      Orders.overlaid(await body(client.GET("/api/shots/{shot_id}", { params: { path: { shot_id: id } } }))),
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
