import { queryOptions } from "@tanstack/react-query";
import { body, client, type Reel } from "../../api/client";
import { whole } from "./difference";

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

export const reelQuery = (id: string) =>
  queryOptions({
    queryKey: ["reel", id],
    queryFn: async ({ client: queries }) => {
      const asked = (since: string) =>
        body(client.GET("/api/reels/{reel_id}", { params: { path: { reel_id: id }, query: { since } } }));
      const now = queries.getQueryData<Reel>(["reel", id]);
      return (now && whole(now, await asked(now.state))) ?? (await asked(""));
    },
  });
