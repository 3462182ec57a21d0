import { queryOptions } from "@tanstack/react-query";
import { body, client } from "../../api/client";

export const reelsQuery = queryOptions({
  queryKey: ["reels"],
  queryFn: () => body(client.GET("/api/reels")),
});

export const reelQuery = (id: string) =>
  queryOptions({
    queryKey: ["reel", id],
    queryFn: () => body(client.GET("/api/reels/{reel_id}", { params: { path: { reel_id: id } } })),
  });
