import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Clapperboard } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { outputsQuery, recipesQuery } from "../../api/fileQueries";
import { Dropdown } from "../../parts/Dropdown";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { useShortcut } from "../../parts/hooks/useShortcut";
import { withKeys } from "../../parts/shell/shortcuts";
import { askNames, giveOrder } from "../dispatch/order";
import { Sizes } from "../dispatch/Sizes";
import { type ReelData, sizesOf } from "./reelItems";

const KEY = "vexel-reel-recipe";

/** Makes the files, by a recipe, in the chosen sizes. */
export function CompileReel({ reel }: { reel: ReelData }) {
  const queries = useQueryClient();
  const { data: shelf } = useQuery(recipesQuery);
  const [name, setName] = useState(() => localStorage.getItem(KEY) ?? "h264");
  const recipes = (shelf?.recipes ?? []).filter((one) => one.pictures && !one.document.sphere);
  const recipe = recipes.find((one) => one.name === name) ?? recipes[0];
  const sizes = sizesOf(reel);
  const [left, setLeft] = useState<string[]>([]);
  const formats = sizes.map((one) => one.format).filter((one) => !left.includes(one));
  const wanted = { recipes: recipe ? [recipe.document] : [], formats, folder: "", names: "" };
  const order = useMutation({
    mutationFn: () => giveOrder({ reel: reel.id, body: wanted }),
    onSuccess: () => queries.invalidateQueries({ queryKey: outputsQuery.queryKey }),
  });
  const can = reel.frames > 0 && formats.length > 0 && !order.isPending;
  useShortcut("make", () => can && order.mutate());
  const { data: named } = useQuery({
    queryKey: ["outputs", "names", reel.id, reel.document.title, reel.revision, wanted],
    enabled: wanted.recipes.length > 0 && formats.length > 0,
    queryFn: () => askNames({ reel: reel.id, body: wanted }),
  });
  return (
    <>
      {order.error && <ErrorAlert error={order.error} onClose={() => order.reset()} />}
      <select
        className="select select-sm w-36 text-ellipsis pr-8"
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
      {sizes.length > 1 && (
        <Dropdown summary={`${formats.length} of ${sizes.length} sizes`} className="btn btn-sm">
          {() => (
            <fieldset
              className="dropdown-content z-30 flex w-64 flex-col gap-1.5 rounded-box border rule bg-base-100 p-3"
              aria-label="Sizes of the files"
            >
              <Sizes
                sizes={sizes}
                chosen={formats}
                onToggle={(one) =>
                  setLeft((before) =>
                    before.includes(one) ? before.filter((each) => each !== one) : [...before, one],
                  )
                }
              />
            </fieldset>
          )}
        </Dropdown>
      )}
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
        title={withKeys(`Makes ${named?.names.join(", ") ?? "the file"}`, "make")}
        onClick={() => order.mutate()}
        data-testid="compile-reel"
      >
        <Clapperboard size={16} aria-hidden />
        Compile {formats.length > 1 ? count(formats.length, "file") : `${reel.frames} frames`}
      </button>
    </>
  );
}
