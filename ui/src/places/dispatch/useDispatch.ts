import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { body, client, type Run } from "../../api/client";
import { outputsQuery, recipesQuery, runsQuery } from "../../api/queries";
import type { Drafts, RecipeDocument } from "./draft";

/** What is to leave: a take, some of its camera passes, recipes with their changes, a folder and names. */
export function useDispatch() {
  const queries = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const { data: runs } = useQuery(runsQuery);
  const { data: shelf } = useQuery(recipesQuery);
  const takes = useMemo(
    () => (runs?.runs ?? []).filter((run) => run.made + run.kept === run.count && run.count > 0),
    [runs],
  );
  const asked = Number(search.get("run") ?? 0);
  const take: Run | undefined = takes.find((run) => run.id === asked) ?? takes[0];
  const [passes, setPasses] = useState<number[]>([0]);
  const [chosen, setChosen] = useState<string[]>([]);
  const [drafts, setDrafts] = useState<Drafts>({});
  const [folder, setFolder] = useState("");
  const [names, setNames] = useState("");
  const [open, setOpen] = useState<string | null>(null);
  const recipes = shelf?.recipes ?? [];
  const documentOf = (name: string): RecipeDocument | undefined =>
    drafts[name] ?? recipes.find((recipe) => recipe.name === name)?.document;

  const order = useMutation({
    mutationFn: () =>
      body(
        client.POST("/api/runs/{run_id}/dispatch", {
          params: { path: { run_id: take?.id ?? 0 } },
          body: {
            recipes: chosen.flatMap((name) => documentOf(name) ?? []),
            camera_passes: passes,
            folder,
            names,
          },
        }),
      ),
    onSuccess: () => {
      setChosen([]);
      for (const queryKey of [outputsQuery.queryKey, ["runs"], ["run"]])
        void queries.invalidateQueries({ queryKey });
    },
  });
  return {
    takes,
    take,
    troubles: shelf?.troubles ?? [],
    recipes: recipes.filter((recipe) => !recipe.document.sphere || take?.panoramas.some(Boolean)),
    chosen,
    passes: passes.filter((pass) => pass < (take?.camera_passes.length ?? 1)),
    drafts,
    folder,
    names,
    open,
    order,
    documentOf,
    setFolder,
    setNames,
    setOpen,
    setPasses,
    chooseTake: (id: number) => {
      setPasses([0]);
      setSearch({ run: String(id) });
    },
    toggle: (name: string) =>
      setChosen((before) =>
        before.includes(name) ? before.filter((one) => one !== name) : [...before, name],
      ),
    change: (name: string, document: RecipeDocument | null) =>
      setDrafts(({ [name]: _, ...others }) => (document ? { ...others, [name]: document } : others)),
  };
}

export type Dispatch = ReturnType<typeof useDispatch>;
