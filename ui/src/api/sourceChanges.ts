import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { useChange } from "../parts/hooks/useChange";
import { sourceStateQuery } from "./benchQueries";

const versionKey = (shotId: string) => ["version", shotId];

/** Counts the changes of a shot's source, so that pictures are requested again although the shot did not change. */
export const useVersion = (shotId: string) => useCount(versionKey(shotId));

const foreignKey = (shotId: string) => ["version", "foreign", shotId];

/** Counts those changes of a shot's source that another program made. */
export const useForeignVersion = (shotId: string) => useCount(foreignKey(shotId));

function useCount(queryKey: string[]): number {
  const { data } = useQuery({
    queryKey,
    queryFn: () => 0,
    initialData: 0,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: Number.POSITIVE_INFINITY,
  });
  return data;
}

const ownKey = (shotId: string) => ["source-state", "own", shotId];
const savingKey = (shotId: string) => ["source-state", "saving", shotId];

/** Makes a change of a shot's code here, told apart from what another program changes. */
export function useOwnChange(shotId: string) {
  const queries = useQueryClient();
  const changed = useSourceChanged(shotId);
  const saving = (count: typeof oneMore) => queries.setQueryData(savingKey(shotId), count);
  const remember = async () => {
    const { digest } = await queries.fetchQuery({ ...sourceStateQuery(shotId), staleTime: 0 });
    queries.setQueryData(ownKey(shotId), digest);
  };
  return async <T>(change: () => Promise<T>): Promise<T> => {
    saving(oneMore);
    try {
      const result = await change();
      changed();
      // Without an answer all is only asked for once more than it must be.
      remember().then(
        () => saving(oneLess),
        () => saving(oneLess),
      );
      return result;
    } catch (failure) {
      saving(oneLess);
      throw failure;
    }
  };
}

/** Follows a source that is changed by another program: everything made from it is requested again. */
export function useFollowedSource(shotId: string, onChange: () => void) {
  const queries = useQueryClient();
  const changed = useSourceChanged(shotId);
  const saving = useCount(savingKey(shotId));
  const { data } = useQuery({ ...sourceStateQuery(shotId), enabled: shotId !== "" });
  const known = useRef<{ id: string; digest: string } | null>(null);
  const digest = data?.digest;
  useChange(`${shotId} ${digest} ${saving}`, () => {
    // While the page saves, the file may be its own text or another program's. The end of the save decides.
    if (digest === undefined || saving > 0) return;
    const before = known.current?.id === shotId ? known.current.digest : digest;
    known.current = { id: shotId, digest };
    if (before === digest || queries.getQueryData(ownKey(shotId)) === digest) return;
    changed();
    queries.setQueryData(foreignKey(shotId), oneMore);
    onChange();
  });
}

/** Requests again what depends on a shot's source. */
export function useSourceChanged(shotId: string) {
  const queries = useQueryClient();
  return () => {
    queries.setQueryData(versionKey(shotId), oneMore);
    for (const of of ["source", "cost", "left", "printed"])
      void queries.invalidateQueries({ queryKey: [of, shotId] });
  };
}

const oneMore = (before: number | undefined) => (before ?? 0) + 1;
const oneLess = (before: number | undefined) => (before ?? 1) - 1;
