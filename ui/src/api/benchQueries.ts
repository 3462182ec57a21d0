import { queryOptions } from "@tanstack/react-query";
import { body, client, type Schemas, type Shot } from "./client";

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

/** The variants of a shot, with their newest runs. */
export const sweepQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ["sweep", id, revision],
    placeholderData: (before: Schemas["SweepBody"] | undefined) => before,
    queryFn: () => body(client.GET("/api/shots/{shot_id}/sweep", { params: { path: { shot_id: id } } })),
  });

/** What an axis of a shot may vary. */
export const settingsQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ["settings", id, revision],
    placeholderData: (before: Schemas["SettingBodies"] | undefined) => before,
    queryFn: () => body(client.GET("/api/shots/{shot_id}/settings", { params: { path: { shot_id: id } } })),
  });

/** How the newest probe of a shot stands. */
export const probeQuery = (id: string) =>
  queryOptions({
    queryKey: ["probe", id],
    queryFn: () => body(client.GET("/api/shots/{shot_id}/probe", { params: { path: { shot_id: id } } })),
  });

/** How much of a shot is yet to be captured. */
export const leftQuery = ({ id, revision }: Pick<Shot, "id" | "revision">) =>
  queryOptions({
    queryKey: ["left", id, revision],
    retry: false,
    queryFn: () => body(client.GET("/api/shots/{shot_id}/left", { params: { path: { shot_id: id } } })),
  });

/** Looked at again and again while the page is in sight: who edits in another program need press nothing here. */
export const sourceStateQuery = (id: string) =>
  queryOptions({
    queryKey: ["source-state", id],
    refetchInterval: 2000,
    queryFn: () =>
      body(client.GET("/api/shots/{shot_id}/source/state", { params: { path: { shot_id: id } } })),
  });
