import { type QueryClient, queryOptions } from "@tanstack/react-query";
import { body, client, type Patch, type Reel } from "../../api/client";
import { type DocumentKind, EditQueue, lasting } from "../../api/editQueue";
import { composed, merged } from "../../api/merge";
import { type ItemsPatch, patchedItems, whole } from "./difference";
import { type Item, itemsOf } from "./reelItems";

export const reelsQuery = queryOptions({
  queryKey: ["reels"],
  queryFn: () => body(client.GET("/api/reels")),
});

/** What only the pictures of a reel tell. */
export const looksQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ["reel looks", id, revision],
    queryFn: () => body(client.GET("/api/reels/{reel_id}/looks", { params: { path: { reel_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

const path = (id: string) => ({ path: { reel_id: id } });

const REELS: DocumentKind<Reel> = {
  key: "reel",
  list: "reels",
  path: (id) => `/api/reels/${encodeURIComponent(id)}`,
  fetch: (id, saved) =>
    body(
      client.GET("/api/reels/{reel_id}", { params: { ...path(id), query: { since: saved?.state ?? "" } } }),
    ),
  save: (id, edit, query, saved) =>
    body(
      client.PATCH("/api/reels/{reel_id}", {
        params: { ...path(id), query: { ...query, since: saved?.state ?? "" } },
        body: edit,
        ...lasting(edit),
      }),
    ),
  completed: whole,
  patched,
  shown,
  // Which items a patch means follows from the ones before it.
  composed: (first, then) => ("items" in first || "items" in then ? null : (composed(first, then) ?? null)),
  builds: true,
};

/** A reel with a patch. If the number of items changes, the items stay until the server has planned the reel. */
function shown(reel: Reel, patch: Patch): Reel {
  const after = patched(reel, patch);
  const before = itemsOf(reel);
  if (itemsOf(after).length === before.length) return after;
  return { ...after, document: { ...after.document, items: before } };
}

function patched(reel: Reel, { items, ...rest }: Patch): Reel {
  const before = itemsOf(reel);
  const after = items ? patchedItems(before, items as ItemsPatch | Item[]) : before;
  return { ...reel, document: { ...merged(reel.document, rest), items: after } };
}

/** The edits of a reel, of which some may not be saved yet. */
export const reelEdits = (id: string, queries: QueryClient) => EditQueue.of(REELS, id, queries);

export const reelQuery = (id: string) =>
  queryOptions({
    queryKey: ["reel", id],
    queryFn: ({ client: queries }): Promise<Reel> => reelEdits(id, queries).read(),
  });
