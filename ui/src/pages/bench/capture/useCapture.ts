import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { leftQuery, sweepQuery } from "../../../api/benchQueries";
import { body, client, Refusal, type Schemas, type Shot } from "../../../api/client";
import { shotEdits } from "../../../api/edits";
import { recipesQuery } from "../../../api/fileQueries";
import { runQuery, sourceQuery } from "../../../api/queries";
import { count } from "../../../parts/format";
import { useRested } from "../useRested";

/** What is made: a draft or all of it, and its file. */
export type CaptureOrder = Pick<Schemas["CaptureOrder"], "draft" | "to_file">;
export type RunLimits = Pick<Schemas["CaptureOrder"], "frame_seconds" | "tries">;

/** Starting a run of a shot: what is left to make, what file comes of it, and why it cannot begin yet. */
export function useCapture(shot: Shot, trouble: Error | null) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const hasVariants = shot.document.sweep != null;
  const { data: sweep } = useQuery({ ...sweepQuery(shot.id, shot.revision), enabled: hasVariants });
  const [limits, setLimits] = useState<RunLimits>({ frame_seconds: null, tries: 1 });
  const order = useMutation({
    mutationFn: async (wanted: CaptureOrder) => {
      // What is on screen is what is captured.
      await shotEdits(shot.id, queries).idle();
      const params = { path: { shot_id: shot.id } };
      if (hasVariants) {
        const all = { ...wanted, ...limits, favourites: false };
        await body(client.POST("/api/shots/{shot_id}/sweep/runs", { params, body: all }));
        return null;
      }
      return body(client.POST("/api/shots/{shot_id}/runs", { params, body: { ...wanted, ...limits } }));
    },
    onSuccess: (run) => {
      void queries.invalidateQueries({ queryKey: ["runs"] });
      if (run) queries.setQueryData(runQuery(run.id).queryKey, run);
      else void queries.invalidateQueries({ queryKey: ["sweep", shot.id] });
      navigate(run ? `/runs/${run.id}` : `/shots/${shot.id}/variants`);
    },
  });
  const { error: unseen } = useQuery(sourceQuery(shot));
  const { data: recipes } = useQuery(recipesQuery);
  const rested = useRested(shot.revision);
  const { data: left } = useQuery({ ...leftQuery(shot), enabled: rested && !unseen });
  const recipe = recipes?.recipes.find((one) => one.name === shot.document.recipe);
  const files = hasVariants && shot.document.sweep?.makes === "shots" ? (sweep?.kept ?? 1) : 1;
  const file = fileWords(recipe, cameraPassesOf(shot) * files);
  const wrong = sweep?.trouble ? new Error(sweep.trouble) : null;
  const blocked = barring(unseen) ?? barring(trouble) ?? (hasVariants ? wrong : null);
  return {
    order: order.mutate,
    pending: order.isPending,
    /** Limits of the next run, where they are not the usual ones. */
    limits,
    setLimits,
    error: order.error,
    dismiss: () => order.reset(),
    /** Makes all frames and the file, unless that cannot be done. */
    go: () => {
      if (!blocked && !order.isPending) order.mutate({ draft: false, to_file: true });
    },
    recipe,
    /** Shipped recipes, of which a shot names one. */
    recipes: (recipes?.recipes ?? []).filter((one) => !one.own && !one.document.sphere),
    /** A sentence with the reason why nothing can be captured, or null. */
    blocked,
    words: hasVariants
      ? `Capture ${count(sweep?.kept ?? 0, "variant")}, make ${file}`
      : captureWords(shot, left?.left ?? null, file),
    file,
  };
}

export type Capture = ReturnType<typeof useCapture>;

/** What takes too long for a look may be well within a capture's limits. */
const barring = (error: Error | null) => (error instanceof Refusal && error.limited ? null : error);

/** What a press will make: all frames, or those that are not there yet, and the file. */
function captureWords(shot: Shot, left: number | null, file: string): string {
  const frames = shot.timing.frames;
  const cameraPasses = cameraPassesOf(shot);
  const all = frames * cameraPasses;
  const unit = cameraPasses === 1 ? "frame" : "picture";
  if (left === null || left === all) return `Capture ${count(all, unit)}, make ${file}`;
  if (left === 0) return `All ${count(all, unit)} are captured: make ${file}`;
  return `Capture ${left.toLocaleString("en")} new of ${count(all, unit)}, make ${file}`;
}

/** What is made of every frame: each camera with each pass. */
const cameraPassesOf = ({ document }: Shot) => (1 + document.cameras.length) * document.picture.passes.length;

/** What comes of it: one file, or one for each camera and pass. */
function fileWords(recipe: Schemas["RecipeBody"] | undefined, cameraPasses: number): string {
  if (!recipe) return "the file";
  return cameraPasses === 1 || recipe.folder
    ? `the ${recipe.makes}`
    : `${cameraPasses} ${recipe.makes} files`;
}
