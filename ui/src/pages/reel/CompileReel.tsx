import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Clapperboard } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import { outputsQuery, recipesQuery } from "../../api/fileQueries";
import { Dropdown } from "../../parts/Dropdown";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { useShortcut } from "../../parts/hooks/useShortcut";
import { withKeys } from "../../parts/shell/shortcuts";
import { askNames } from "../dispatch/order";
import { Making, OutputLine } from "../runs/OutputLine";
import { active } from "../runs/words";
import type { ReelData } from "./reelItems";

const KEY = "vexel-reel-recipe";

/** Makes the file, by a recipe; its progress and the files made before are beside the button. */
export function CompileReel({ reel }: { reel: ReelData }) {
  const queries = useQueryClient();
  const { data: shelf } = useQuery(recipesQuery);
  const { data } = useQuery(outputsQuery);
  const [name, setName] = useState(() => localStorage.getItem(KEY) ?? "h264");
  const recipes = (shelf?.recipes ?? []).filter((one) => one.pictures && !one.document.sphere);
  const recipe = recipes.find((one) => one.name === name) ?? recipes[0];
  const files = (data?.outputs ?? []).filter((one) => one.reel === reel.id);
  const order = useMutation({
    mutationFn: () =>
      body(
        client.POST("/api/reels/{reel_id}/dispatch", {
          params: { path: { reel_id: reel.id } },
          body: { recipes: recipe ? [recipe.document] : [], folder: "", names: "" },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: outputsQuery.queryKey }),
  });
  const newest = files[0];
  const can = reel.frames > 0 && !order.isPending;
  useShortcut("make", () => can && order.mutate());
  const documents = recipe ? [recipe.document as Record<string, unknown>] : [];
  const { data: named } = useQuery({
    queryKey: ["outputs", "names", reel.id, reel.document.title, documents],
    enabled: documents.length > 0,
    queryFn: () => askNames({ reel: reel.id, body: { recipes: documents, folder: "", names: "" } }),
  });
  return (
    <>
      {order.error && <ErrorAlert error={order.error} onClose={() => order.reset()} />}
      {newest && active(newest) && <Making output={newest} />}
      {newest && (
        <Dropdown
          summary={
            newest.state === "done"
              ? `${files.length === 1 ? "1 file" : `${files.length} files`}`
              : newest.state === "running"
                ? `Making ${newest.file}…`
                : newest.state === "queued"
                  ? "Queued"
                  : newest.state === "stopped"
                    ? "Stopped"
                    : "The file failed"
          }
          className="btn btn-ghost btn-sm whitespace-nowrap"
        >
          {() => (
            <ul
              className="dropdown-content z-30 max-h-96 w-[28rem] overflow-auto rounded-box border rule bg-base-100 px-3"
              data-testid="reel-files"
            >
              {files.slice(0, 20).map((file) => (
                <OutputLine key={file.id} output={file} />
              ))}
            </ul>
          )}
        </Dropdown>
      )}
      <select
        className="select select-sm w-36"
        aria-label="Recipe of the file"
        value={recipe?.name ?? ""}
        onChange={(event) => {
          setName(event.target.value);
          localStorage.setItem(KEY, event.target.value);
        }}
      >
        {recipes.map((one) => (
          <option key={one.name} value={one.name}>
            {one.name}
          </option>
        ))}
      </select>
      <Link
        to={`/dispatch?reel=${encodeURIComponent(reel.id)}`}
        className="btn btn-sm"
        title="Several recipes at once, their settings, a custom folder"
      >
        Dispatch
      </Link>
      <button
        type="button"
        className="btn btn-primary"
        disabled={!can}
        aria-keyshortcuts="Control+Enter"
        title={withKeys(`Makes ${named?.names[0] ?? "the file"}`, "make")}
        onClick={() => order.mutate()}
        data-testid="compile-reel"
      >
        <Clapperboard size={16} aria-hidden />
        Compile {reel.frames} frames
      </button>
    </>
  );
}
