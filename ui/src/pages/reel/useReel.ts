import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useSyncExternalStore } from "react";
import { body, client, type Patch } from "../../api/client";
import { itemsPatch } from "./difference";
import { reelEdits, reelQuery } from "./queries";
import { type Item, itemsOf, type ReelData } from "./reelItems";

/** A reel and its edits. Each is saved immediately and in order, and is shown before it is saved where possible. */
export function useReel(id: string) {
  const queries = useQueryClient();
  const { data: reel, error: unread } = useQuery({ ...reelQuery(id), enabled: id !== "" });
  const queue = reelEdits(id, queries);
  const refused = useSyncExternalStore(queue.subscribe, () => queue.error);
  const edits = useMemo(() => {
    const moved = (path: "/api/reels/{reel_id}/undo" | "/api/reels/{reel_id}/redo") => () =>
      queue.put((query, saved) =>
        body(
          client.POST(path, {
            params: { path: { reel_id: id }, query: { ...query, since: saved?.state ?? "" } },
          }),
        ),
      );
    return {
      forget: queue.dismiss,
      edit: queue.editFrom,
      change: (patch: Patch, what: string) => queue.edit(patch, what),
      setItems: (make: (items: Item[]) => Item[], what: string, burst?: string) =>
        queue.editFrom((now) => ({ items: itemsPatch(itemsOf(now), make(itemsOf(now))) }), what, burst),
      /** What another press of the server made of it. */
      take: (next: ReelData) => queue.put(async () => next),
      undo: moved("/api/reels/{reel_id}/undo"),
      redo: moved("/api/reels/{reel_id}/redo"),
    };
  }, [id, queue]);
  return { reel, error: unread ?? refused, items: reel ? itemsOf(reel) : [], ...edits };
}

export type ReelEdits = ReturnType<typeof useReel>;
