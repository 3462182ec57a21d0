import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { body, client, type Run } from "../../api/client";
import { recipesQuery } from "../../api/fileQueries";
import { CloseButton } from "../../parts/CloseButton";
import { CopyButton } from "../../parts/CopyButton";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { TextEntry } from "../../parts/entries/TextEntry";
import type { FullRecipe, RecipeDocument } from "./draft";
import { GifTable } from "./GifTable";
import { HandoverFiles } from "./HandoverFiles";
import { RecipeSettings } from "./RecipeSettings";
import type { Subject } from "./subject";
import { TrialView } from "./TrialView";
import type { Dispatch } from "./useDispatch";

interface Props {
  recipe: FullRecipe;
  subject: Subject;
  dispatch: Dispatch;
}

/** A recipe's settings, how the file will look and weigh, and the line that makes the same. */
export function RecipeSheet({ recipe, subject, dispatch }: Props) {
  const take = subject.of === "take" ? subject.run : null;
  const document = dispatch.documentOf(recipe.name) ?? recipe.document;
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: (name: string) =>
      body(
        client.PUT("/api/recipes/{name}", {
          params: { path: { name } },
          body: { ...document, name, about: document.about || recipe.about },
        }),
      ),
    onSuccess: (made) => {
      dispatch.change(recipe.name, null);
      void queries.invalidateQueries({ queryKey: recipesQuery.queryKey });
      dispatch.setOpen(made.name);
    },
  });
  const remove = useMutation({
    mutationFn: () => body(client.DELETE("/api/recipes/{name}", { params: { path: { name: recipe.name } } })),
    onSuccess: () => {
      dispatch.setOpen(null);
      void queries.invalidateQueries({ queryKey: recipesQuery.queryKey });
    },
  });
  const changed = dispatch.drafts[recipe.name] !== undefined;
  return (
    <aside
      className="flex w-[420px] max-w-full shrink-0 flex-col overflow-auto border-l rule bg-base-100 max-lg:absolute max-lg:inset-y-0 max-lg:right-0 max-lg:z-10"
      aria-label={`Settings of ${recipe.name}`}
      data-testid="recipe-sheet"
    >
      <header className="flex items-center gap-2 border-b rule px-4 py-2">
        <h2 className="flex-1 truncate text-base font-semibold">{recipe.name}</h2>
        {changed && (
          <button type="button" className="btn btn-xs" onClick={() => dispatch.change(recipe.name, null)}>
            Reset
          </button>
        )}
        <CloseButton label="Close the settings" onClick={() => dispatch.setOpen(null)} />
      </header>
      <div className="flex flex-col gap-3 px-4 py-3">
        {recipe.pictures ? (
          <TrialView subject={subject} document={document} recipe={recipe} />
        ) : (
          <p className="text-small">{recipe.about}</p>
        )}
        {document.codec === "handover" && take && (
          <HandoverFiles run={take} made={document.made_files !== false} />
        )}
        <RecipeSettings
          recipe={recipe}
          document={document}
          holes={take !== null && take.made + take.kept < take.count}
          onChange={(next) => dispatch.change(recipe.name, next)}
        />
        {document.codec === "gif" && (
          <GifTable
            subject={subject}
            document={document}
            onChange={(next) => dispatch.change(recipe.name, next)}
          />
        )}
        <WholeDocument document={document} onChange={(next) => dispatch.change(recipe.name, next)} />
        <section aria-label="Keep as your own recipe" className="flex items-center gap-2 text-small">
          <span className="w-28 shrink-0">Save as</span>
          <TextEntry
            label="Name of your recipe"
            value={recipe.own ? recipe.name : ""}
            placeholder="my-recipe"
            onCommit={(name) => name && save.mutate(name)}
          />
          {recipe.own && (
            <button type="button" className="btn btn-xs" onClick={() => remove.mutate()}>
              Delete
            </button>
          )}
        </section>
        <ErrorAlert error={save.error ?? remove.error} />
        {recipe.pictures && subject.of === "take" && (
          <Line take={subject.run} cameraPass={subject.cameraPass} document={document} />
        )}
      </div>
    </aside>
  );
}

/** The whole recipe as JSON, for settings without a control. */
function WholeDocument({
  document,
  onChange,
}: {
  document: RecipeDocument;
  onChange: (document: RecipeDocument) => void;
}) {
  const shown = JSON.stringify(document, null, 1);
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const commit = () => {
    if (text === null) return;
    try {
      onChange(JSON.parse(text) as RecipeDocument);
      setText(null);
      setWrong("");
    } catch (error) {
      setWrong(`This is not JSON: ${(error as Error).message}`);
    }
  };
  return (
    <details className="text-small">
      <summary className="cursor-pointer">All settings as JSON</summary>
      <textarea
        rows={14}
        spellCheck={false}
        className="figures mt-1 block w-full resize-y rounded-box border rule bg-base-100 p-2 text-note"
        aria-label="The recipe as JSON"
        value={text ?? shown}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
      />
      <ErrorAlert error={wrong} />
    </details>
  );
}

/** The encoder's command line, to copy. */
function Line({
  take,
  cameraPass,
  document,
}: {
  take: Run;
  cameraPass: number;
  document: FullRecipe["document"];
}) {
  const [shell, setShell] = useState<"posix" | "windows">("posix");
  const { data, error } = useQuery({
    queryKey: ["line", take.id, cameraPass, document],
    retry: false,
    queryFn: () =>
      body(
        client.POST("/api/runs/{run_id}/line", {
          params: { path: { run_id: take.id } },
          body: {
            recipe: document as Record<string, unknown>,
            camera_pass: cameraPass,
            frame: 0,
            ticket: "",
          },
        }),
      ),
  });
  return (
    <section aria-label="Command line" className="text-small">
      <div className="mb-1 flex items-center gap-2">
        <h3 className="flex-1 font-semibold">The same by a command</h3>
        <select
          className="select select-xs w-auto"
          aria-label="Shell"
          value={shell}
          onChange={(event) => setShell(event.target.value as typeof shell)}
        >
          <option value="posix">POSIX shell</option>
          <option value="windows">Windows</option>
        </select>
        {data && <CopyButton text={data[shell]} name="the command" />}
      </div>
      {data && (
        <>
          <textarea
            readOnly
            rows={5}
            className="figures block w-full resize-y break-all rounded-box bg-base-200 p-2 text-note"
            aria-label="The command"
            value={data[shell]}
          />
          {data.notes.map((note) => (
            <p key={note} className="quiet mt-1 text-note">
              {note}
            </p>
          ))}
        </>
      )}
      {error && <p className="quiet text-note">{error.message}</p>}
    </section>
  );
}
