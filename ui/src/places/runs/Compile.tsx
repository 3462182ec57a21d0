import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { CirclePlay, Clapperboard, Download } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { body, client, type Output, type Run } from "../../api/client";
import { recipesQuery, runQuery } from "../../api/queries";
import { Complaint } from "../../parts/Complaint";
import { size, span } from "../../parts/words";
import { StrandChoice } from "./StrandChoice";

/** Recipes to compile the take by, and the files that were made of it. */
export function Compile({ run }: { run: Run }) {
  const queries = useQueryClient();
  const { data } = useQuery(recipesQuery);
  const [strand, setStrand] = useState(0);
  const order = useMutation({
    mutationFn: (recipe: string) =>
      body(
        client.POST("/api/runs/{run_id}/outputs", {
          params: { path: { run_id: run.id } },
          body: { recipe, strand },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: runQuery(run.id).queryKey }),
  });
  const whole = run.made + run.kept === run.count;
  return (
    <section className="rounded-box border rule bg-base-100 p-3" aria-label="Compile">
      <h2 className="mb-1.5 font-semibold">Compile</h2>
      {!whole && <p className="quiet mb-2 text-[13px]">A file can be compiled when all frames are there.</p>}
      <StrandChoice
        run={run}
        label="Camera and pass"
        strand={strand}
        onStrand={setStrand}
        className="mb-2 w-full"
      />
      <div className="flex flex-col gap-1.5">
        {data?.recipes.map((recipe) => (
          <button
            key={recipe.name}
            type="button"
            className={`btn btn-sm justify-start font-normal ${recipe.name === run.recipe && run.outputs.length === 0 ? "btn-primary" : ""}`}
            disabled={!whole || order.isPending}
            onClick={() => order.mutate(recipe.name)}
          >
            <Clapperboard size={15} aria-hidden /> {recipe.about}
          </button>
        ))}
      </div>
      <Complaint error={order.error} />
      {run.outputs.length > 0 && (
        <>
          <h3 className="mb-1 mt-3 text-[13px] font-semibold">Files</h3>
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

function OutputLine({ output }: { output: Output }) {
  const stop = useMutation({
    mutationFn: () =>
      body(client.POST("/api/outputs/{output_id}/stop", { params: { path: { output_id: output.id } } })),
  });
  return (
    <li className="border-b rule py-1.5 text-[13px] last:border-b-0">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 truncate" title={output.file}>
          {output.file}
        </span>
        {output.state === "done" && (
          <>
            <span className="figures">{size(output.receipt?.bytes ?? 0)}</span>
            <a
              className="btn btn-ghost btn-xs btn-square"
              href={`/api/outputs/${output.id}/file?download=1`}
              aria-label={`Download ${output.file}`}
              title="Download"
            >
              <Download size={15} aria-hidden />
            </a>
            <Link to={`/files/${output.id}`} className="btn btn-primary btn-xs">
              <CirclePlay size={14} aria-hidden /> Play
            </Link>
          </>
        )}
        {(output.state === "running" || output.state === "waiting") && (
          <button type="button" className="btn btn-xs" onClick={() => stop.mutate()}>
            Stop
          </button>
        )}
      </div>
      {output.state === "running" && (
        <div className="mt-1 flex items-center gap-2">
          <progress
            className="progress progress-primary flex-1"
            value={output.done}
            max={output.count || 1}
            aria-label="Compiling"
          />
          {output.rate > 0 && (
            <span className="figures text-[12px]">
              {span((output.count - output.done) / output.rate)} left
            </span>
          )}
        </div>
      )}
      {output.state === "waiting" && <span className="quiet">waits its turn</span>}
      {output.message && <Complaint error={output.message} />}
    </li>
  );
}
