import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { Readable } from "openapi-typescript-helpers";
import { useMemo } from "react";
import { body, client, type Patch, type Schemas, type Shot } from "../../../api/client";
import { useVersion } from "../../../api/version";

export type Flight = Readable<Schemas["PathFiguresBody"]>;
export type Way = Flight["cameras"][number];
/** x, y and z in the source's units. */
export type Point = number[];

/** How the shot's cameras move, with what a drag changes and does not save. */
export function useFlight(
  shot: Shot | undefined,
  camera: number,
  wanted: boolean,
  patch?: Patch,
): Flight | undefined {
  const id = shot?.id ?? "";
  const version = useVersion(id);
  const told = patch ? JSON.stringify(patch) : "";
  const { data, isPlaceholderData } = useQuery({
    queryKey: ["flight", id, shot?.revision, version, camera, told],
    enabled: wanted && id !== "",
    retry: false,
    gcTime: told ? 0 : 60_000,
    placeholderData: keepPreviousData,
    queryFn: () =>
      body(
        client.GET("/api/shots/{shot_id}/camera-figures", {
          params: {
            path: { shot_id: id },
            query: { patch: told, steady: told !== "", camera, revision: shot?.revision ?? 0 },
          },
        }),
      ),
  });
  // Frames of stops that were another revision's lead elsewhere.
  return useMemo(() => {
    if (!wanted || !data) return undefined;
    return isPlaceholderData ? { ...data, stops: [] } : data;
  }, [wanted, data, isPlaceholderData]);
}

/** Which of the told places of a way is nearest to a frame. */
export function rowAt(way: Way, frame: number): number {
  const last = way.frames[way.frames.length - 1] || 1;
  const guess = Math.round((frame / last) * (way.frames.length - 1));
  return Math.min(Math.max(guess, 0), way.frames.length - 1);
}
