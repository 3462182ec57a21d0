import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import type { Run } from "../../api/client";
import { outputsQuery, recipesQuery } from "../../api/fileQueries";
import { runsQuery } from "../../api/queries";
import { reelsQuery } from "../reel/queries";
import { active } from "../runs/words";
import type { Drafts, RecipeDocument } from "./draft";
import { askNames, giveOrder, type Order } from "./order";
import { type Subject, subjectOfTake } from "./subject";

/** What is to leave: takes, some of their camera passes, recipes with their changes, a folder and names. */
export function useDispatch() {
  const queries = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const { data: runs, error: ofRuns } = useQuery(runsQuery);
  const { data: shelf, error: ofRecipes } = useQuery(recipesQuery);
  const { data: shownReels, error: ofReels } = useQuery(reelsQuery);
  const takes = useMemo(
    () => (runs?.runs ?? []).filter((run) => run.made + run.kept > 0 && !active(run)),
    [runs],
  );
  const asked = (search.get("run") ?? "").split(",").map(Number);
  const known = asked.flatMap((id) => takes.find((run) => run.id === id) ?? []);
  // A take with holes is chosen by hand only.
  const usual = takes.find((run) => run.made + run.kept === run.count) ?? takes[0];
  const reels = shownReels?.reels.filter((one) => one.frames > 0) ?? [];
  const reel = reels.find((one) => one.id === search.get("reel"));
  const leaving: Run[] = reel ? [] : known.length > 0 ? known : usual ? [usual] : [];
  const [passes, setPasses] = useState<Record<number, number[]>>({});
  const passesOf = (run: Run) => passes[run.id] ?? [0];
  const subject: Subject | null = reel
    ? { of: "reel", ...reel }
    : leaving[0]
      ? subjectOfTake(leaving[0], passesOf(leaving[0])[0] ?? 0)
      : null;
  const sizes = reel && reel.sizes.length > 1 ? reel.sizes : [];
  const [leftOut, setLeftOut] = useState<Record<string, string[]>>({});
  const formats = (reel?.sizes ?? [])
    .map((one) => one.format)
    .filter((one) => !leftOut[reel?.id ?? ""]?.includes(one));
  const [chosen, setChosen] = useState<string[]>([]);
  const [drafts, setDrafts] = useState<Drafts>({});
  const [folder, setFolder] = useState("");
  const [names, setNames] = useState("");
  const [open, setOpen] = useState<string | null>(null);
  const [ordered, setOrdered] = useState<number[]>([]);
  const recipes = shelf?.recipes ?? [];
  const documentOf = (name: string): RecipeDocument | undefined =>
    drafts[name] ?? recipes.find((recipe) => recipe.name === name)?.document;

  const documents = chosen.flatMap((name) => documentOf(name) ?? []);
  const orders: Order[] = reel
    ? [{ reel: reel.id, body: { recipes: documents, formats, folder, names } }]
    : leaving.map((run) => ({
        run: run.id,
        body: { recipes: documents, camera_passes: passesOf(run), folder, names },
      }));
  const files =
    chosen.length * (reel ? formats.length : leaving.reduce((sum, run) => sum + passesOf(run).length, 0));
  const named = useQuery({
    queryKey: ["outputs", "names", orders],
    enabled: files > 0,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: () => Promise.all(orders.map(askNames)),
  });
  const order = useMutation({
    mutationFn: async () => {
      const made: number[] = [];
      // In turn, so that files are queued in the order in which the takes are shown.
      for (const one of orders) made.push(...(await giveOrder(one)).outputs.map((file) => file.id));
      return made;
    },
    onSuccess: (made) => {
      setOrdered(made);
      setChosen([]);
      for (const queryKey of [outputsQuery.queryKey, ["runs"], ["run"]])
        void queries.invalidateQueries({ queryKey });
    },
  });
  return {
    takes,
    reels,
    reel,
    subject,
    leaving,
    /** Sizes of the reel, where there is more than one, and the formats of those that are chosen. */
    sizes,
    formats,
    toggleFormat: (format: string) =>
      setLeftOut((before) => {
        const now = before[reel?.id ?? ""] ?? [];
        const next = now.includes(format) ? now.filter((one) => one !== format) : [...now, format];
        return { ...before, [reel?.id ?? ""]: next };
      }),
    passesOf,
    files,
    /** Names of the files, once the server has answered. */
    names: named,
    /** Files of the last order. */
    ordered,
    setOrdered,
    loading: !(runs && shelf && shownReels),
    error: ofRuns ?? ofRecipes ?? ofReels,
    troubles: shelf?.troubles ?? [],
    recipes: recipes.filter(
      (recipe) =>
        (!recipe.document.sphere || leaving.some((run) => run.panoramas.some(Boolean))) &&
        (recipe.pictures || !reel),
    ),
    chosen,
    drafts,
    folder,
    pattern: names,
    open,
    order,
    documentOf,
    setFolder,
    setPattern: setNames,
    setOpen,
    togglePass: (run: Run, pass: number) =>
      setPasses((before) => {
        const now = before[run.id] ?? [0];
        const next = now.includes(pass) ? now.filter((one) => one !== pass) : [...now, pass];
        return { ...before, [run.id]: next.sort((a, b) => a - b) };
      }),
    setTakes: (ids: number[]) => setSearch({ run: ids.join(",") }),
    setReel: (id: string) => setSearch({ reel: id }),
    toggle: (name: string) =>
      setChosen((before) =>
        before.includes(name) ? before.filter((one) => one !== name) : [...before, name],
      ),
    change: (name: string, document: RecipeDocument | null) =>
      setDrafts(({ [name]: _, ...others }) => (document ? { ...others, [name]: document } : others)),
  };
}

export type Dispatch = ReturnType<typeof useDispatch>;
