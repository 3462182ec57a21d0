import { useQuery } from "@tanstack/react-query";
import type { Shot } from "../../api/client";
import { sourceQuery } from "../../api/queries";
import { sourceKind } from "../../api/vocabulary";

/** Whether the shot's camera looks at its source; a source of pictures needs none. */
export function useLooks(shot: Shot | undefined): boolean {
  const { data } = useQuery({ ...sourceQuery(shot ?? { id: "", revision: 0 }), enabled: shot !== undefined });
  return shot !== undefined && (data?.camera ?? sourceKind(shot.document.source.kind)?.gives === "geometry");
}
