import { queryOptions } from "@tanstack/react-query";
import { body, client } from "./client";

export const recipesQuery = queryOptions({
  queryKey: ["recipes"],
  staleTime: Number.POSITIVE_INFINITY,
  queryFn: () => body(client.GET("/api/recipes")),
});

export const outputsQuery = queryOptions({
  queryKey: ["outputs"],
  queryFn: () => body(client.GET("/api/outputs")),
});

export const outputQuery = (id: number) =>
  queryOptions({
    queryKey: ["output", id],
    queryFn: () => body(client.GET("/api/outputs/{output_id}", { params: { path: { output_id: id } } })),
  });
