import { useQuery } from "@tanstack/react-query";
import { body, client, type Shot } from "../../api/client";
import { sourceQuery } from "../../api/queries";
import { useVersion } from "../../api/sourceChanges";

/** How a shot's end meets its beginning: as the document and the source tell, else as measured when asked for. */
export function useSeam(shot: Shot) {
  const version = useVersion(shot.id);
  const { data: source, isPending } = useQuery(sourceQuery(shot));
  const measured = useQuery({
    queryKey: ["seam", shot.id, shot.revision, version],
    enabled: false,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => body(client.POST("/api/shots/{shot_id}/seam", { params: { path: { shot_id: shot.id } } })),
  });
  const known = source?.seam ?? shot.seam;
  return {
    seam: known.state === "source" ? (measured.data?.seam ?? known) : known,
    /** Whether the source has not answered yet. */
    checking: isPending && known.state === "source",
    measuring: measured.isFetching,
    error: measured.error,
    measure: () => void measured.refetch(),
  };
}

export type SeamState = ReturnType<typeof useSeam>;
