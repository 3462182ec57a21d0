import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { Readable } from "openapi-typescript-helpers";
import { useMemo } from "react";
import { body, client, type Patch, type Schemas, type Shot } from "../../../api/client";
import { useVersion } from "../../../api/sourceChanges";

export type PathFigures = Readable<Schemas["PathFiguresBody"]>;
export type CameraPath = PathFigures["cameras"][number];
/** x, y and z in the source's units. */
export type Point = number[];

/** How the shot's cameras move, with what a drag changes and does not save. */
export function usePathFigures(
  shot: Shot | undefined,
  camera: number,
  wanted: boolean,
  patch?: Patch,
): PathFigures | undefined {
  const id = shot?.id ?? "";
  const version = useVersion(id);
  const { data, isPlaceholderData } = useQuery({
    queryKey: ["camera-figures", id, shot?.revision, version, camera, patch],
    enabled: wanted && id !== "",
    retry: false,
    gcTime: patch ? 0 : 60_000,
    placeholderData: keepPreviousData,
    queryFn: () =>
      body(
        client.POST("/api/shots/{shot_id}/camera-figures", {
          params: { path: { shot_id: id } },
          body: { patch: patch ?? {}, steady: patch !== undefined, camera },
        }),
      ),
  });
  // Frames of stops that were another revision's lead elsewhere.
  return useMemo(() => {
    if (!wanted || !data) return undefined;
    return isPlaceholderData ? { ...data, stops: [] } : data;
  }, [wanted, data, isPlaceholderData]);
}

/** Which of the points of a path is nearest to a frame. */
export function rowAt(path: CameraPath, frame: number): number {
  const last = path.frames[path.frames.length - 1] || 1;
  const guess = Math.round((frame / last) * (path.frames.length - 1));
  return Math.min(Math.max(guess, 0), path.frames.length - 1);
}
