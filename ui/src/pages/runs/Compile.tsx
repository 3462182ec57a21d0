import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Clapperboard, Send } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { body, client, type Run, type Schemas } from "../../api/client";
import { recipesQuery } from "../../api/fileQueries";
import { runQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { FramesOut } from "./FramesOut";
import { OutputLine } from "./OutputLine";
import { PassChoice } from "./PassChoice";

/** Recipes to compile the take by, and the files that were made of it. */
export function Compile({ run }: { run: Run }) {
  const queries = useQueryClient();
  const { data } = useQuery(recipesQuery);
  const [cameraPass, setCameraPass] = useState(0);
  const order = useMutation({
    mutationFn: (wanted: Partial<Schemas["CompileOrder"]> & { recipe: string }) =>
      body(
        client.POST("/api/runs/{run_id}/outputs", {
          params: { path: { run_id: run.id } },
          body: { camera_pass: cameraPass, folder: "", links: false, ...wanted },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: runQuery(run.id).queryKey }),
  });
  // The shot's own and the usual ones; all others are in Dispatch.
  const usual = [run.recipe, "h264", "gif", "gif-640"];
  const recipes = data?.recipes.filter((recipe) => !recipe.folder && usual.includes(recipe.name)) ?? [];
  const folder = data?.recipes.find((recipe) => recipe.name === "frames");
  const documents = recipes.map((recipe) => recipe.document as Record<string, unknown>);
  const { data: named } = useQuery({
    queryKey: ["outputs", "names", run.id, cameraPass, documents],
    enabled: documents.length > 0,
    queryFn: () =>
      body(
        client.POST("/api/runs/{run_id}/file-names", {
          params: { path: { run_id: run.id } },
          body: { recipes: documents, camera_passes: [cameraPass], folder: "", names: "" },
        }),
      ),
  });
  const whole = run.made + run.kept === run.count;
  return (
    <section className="rounded-box border rule bg-base-100 p-3" aria-label="Compile">
      <h2 className="mb-1.5 font-semibold">Compile</h2>
      {!whole && <p className="quiet mb-2 text-small">A file can be compiled when all frames are there.</p>}
      <PassChoice
        run={run}
        label="Camera and pass"
        cameraPass={cameraPass}
        onCameraPass={setCameraPass}
        className="mb-2 w-full"
      />
      <div className="flex flex-col gap-1.5">
        {recipes.map((recipe, at) => (
          <button
            key={recipe.name}
            type="button"
            className={`btn btn-sm h-auto justify-start py-1 text-left font-normal ${recipe.name === run.recipe && run.outputs.length === 0 ? "btn-primary" : ""}`}
            disabled={!whole || order.isPending}
            onClick={() => order.mutate({ recipe: recipe.name })}
          >
            <Clapperboard size={15} className="shrink-0" aria-hidden />
            <span className="min-w-0">
              {recipe.about}
              <span className="block truncate text-note opacity-80" title={named?.names[at]}>
                {named?.names[at]}
              </span>
            </span>
          </button>
        ))}
        <Link to={`/dispatch?run=${run.id}`} className="btn btn-sm justify-start font-normal">
          <Send size={15} aria-hidden /> More: WebM, ProRes, WebP, a web page, several at once
        </Link>
      </div>
      {folder && (
        <FramesOut
          run={run}
          pending={order.isPending}
          onFolder={(place, links) => order.mutate({ recipe: folder.name, folder: place, links })}
        />
      )}
      <ErrorAlert error={order.error} />
      {run.outputs.length > 0 && (
        <>
          <h3 className="mb-1 mt-3 text-small font-semibold">Files</h3>
          <ul>
            {run.outputs.map((output) => (
              <OutputLine key={output.id} output={output} />
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
