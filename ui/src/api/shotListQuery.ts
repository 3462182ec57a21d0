import { queryOptions } from "@tanstack/react-query";
import { body, client } from "./client";

export const shotsQuery = queryOptions({
  queryKey: ["shots"],
  queryFn: () => body(client.GET("/api/shots")),
});
