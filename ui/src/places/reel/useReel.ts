import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { body, client } from "../../api/client";
import { itemsPatch, whole } from "./difference";
import { reelQuery, reelsQuery } from "./queries";
import { type Item, itemsOf, type ReelData } from "./reelItems";

type Patch = Record<string, unknown>;

/** A reel and its edits: saved as they are made, one after another, each worked out from what the last one left. */
export function useReel(id: string) {
  const queries = useQueryClient();
  const { data: reel, error } = useQuery({ ...reelQuery(id), enabled: id !== "" });
  const [refused, setRefused] = useState<Error | null>(null);
  const turn = useRef<Promise<void>>(Promise.resolve());

  const inTurn = useCallback(
    (act: (now: ReelData) => Promise<ReelData>) => {
      turn.current = turn.current.then(async () => {
        const now = queries.getQueryData(reelQuery(id).queryKey);
        if (!now) return;
        try {
          const next = whole(now, await act(now));
          if (next) queries.setQueryData(reelQuery(id).queryKey, next);
          else await queries.invalidateQueries({ queryKey: reelQuery(id).queryKey });
          setRefused(null);
        } catch (wrong) {
          setRefused(wrong as Error);
          await queries.invalidateQueries({ queryKey: reelQuery(id).queryKey });
        }
        void queries.invalidateQueries({ queryKey: reelsQuery.queryKey });
      });
    },
    [id, queries],
  );
  const path = { path: { reel_id: id } };
  const edit = (make: (now: ReelData) => Patch, what: string, burst = "") =>
    inTurn((now) =>
      body(
        client.PATCH("/api/reels/{reel_id}", {
          params: { ...path, query: { revision: now.revision, since: now.state } },
          body: { patch: make(now), what, burst },
        }),
      ),
    );
  return {
    reel,
    error: error ?? refused,
    forget: () => setRefused(null),
    items: reel ? itemsOf(reel) : [],
    edit,
    change: (patch: Patch, what: string) => edit(() => patch, what),
    /** Edits of one `burst` are undone as one. */
    setItems: (make: (items: Item[]) => Item[], what: string, burst = "") =>
      edit((now) => ({ items: itemsPatch(itemsOf(now), make(itemsOf(now))) }), what, burst),
    /** What another press of the server made of it. */
    take: (next: ReelData) => inTurn(async () => next),
    undo: () =>
      inTurn((now) =>
        body(
          client.POST("/api/reels/{reel_id}/undo", {
            params: { ...path, query: { revision: now.revision, since: now.state } },
          }),
        ),
      ),
    redo: () =>
      inTurn((now) =>
        body(
          client.POST("/api/reels/{reel_id}/redo", {
            params: { ...path, query: { revision: now.revision, since: now.state } },
          }),
        ),
      ),
  };
}

export type ReelEdits = ReturnType<typeof useReel>;
