import { useQuery, useQueryClient } from "@tanstack/react-query";

const versionKey = (shotId: string) => ["version", shotId];

/** Counts the saves of a shot's code here, so that pictures are asked for anew though the shot stayed as it was. */
export function useVersion(shotId: string): number {
  const { data } = useQuery({
    queryKey: versionKey(shotId),
    queryFn: () => 0,
    initialData: 0,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: Number.POSITIVE_INFINITY,
  });
  return data;
}

/** What is to be done when a shot's code was saved. */
export function useCodeSaved(shotId: string) {
  const queries = useQueryClient();
  return () => {
    queries.setQueryData(versionKey(shotId), (before: number | undefined) => (before ?? 0) + 1);
    void queries.invalidateQueries({ queryKey: ["source", shotId] });
    void queries.invalidateQueries({ queryKey: ["cost", shotId] });
    void queries.invalidateQueries({ queryKey: ["printed", shotId] });
  };
}
