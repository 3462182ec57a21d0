import { useQuery } from "@tanstack/react-query";
import type { Shot } from "../../api/client";
import { sourceQuery } from "../../api/queries";
import { standsBeforeCamera } from "../../parts/kinds";

/** Whether the shot's camera looks at its source; a source of pictures needs none. */
export function useLooks(shot: Shot | undefined): boolean {
  const { data } = useQuery({ ...sourceQuery(shot ?? { id: "", revision: 0 }), enabled: shot !== undefined });
  return shot !== undefined && (data?.camera ?? standsBeforeCamera(shot.document.source.kind));
}
