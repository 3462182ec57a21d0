import { Send } from "lucide-react";
import { Link } from "react-router";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { ExportSources } from "./ExportSources";
import { RecipeRows } from "./RecipeRows";
import { RecipeSheet } from "./RecipeSheet";
import { SentFiles } from "./SentFiles";
import { keyOf } from "./subject";
import { useDispatch } from "./useDispatch";

/** Dispatch: what leaves the project, a row a file, each proven. */
export function DispatchPage() {
  const dispatch = useDispatch();
  const { subject, files, order } = dispatch;
  if (!subject)
    return (
      <div className="mx-auto max-w-2xl p-8">
        <h1 className="mb-2 text-2xl font-semibold">Dispatch</h1>
        <p className="quiet">
          Files are made of takes.{" "}
          <Link to="/" className="link link-primary">
            Capture a shot
          </Link>{" "}
          first.
        </p>
      </div>
    );
  const recipe = dispatch.recipes.find((one) => one.name === dispatch.open);
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-6 py-4">
        <header className="mb-2 flex items-center gap-4">
          <h1 className="flex-1 text-2xl font-semibold">Dispatch</h1>
          <button
            type="button"
            className="btn btn-primary"
            disabled={files === 0 || order.isPending}
            onClick={() => order.mutate()}
            data-testid="dispatch"
          >
            <Send size={16} aria-hidden />
            {files === 0 ? "Choose recipes below" : files === 1 ? "Make 1 file" : `Make ${files} files`}
          </button>
        </header>
        <ExportSources dispatch={dispatch} />
        <ErrorAlert error={order.error} onClose={() => order.reset()} />
        {dispatch.troubles.map((trouble) => (
          <ErrorAlert key={trouble} error={trouble} />
        ))}
        <RecipeRows dispatch={dispatch} />
        <SentFiles />
      </div>
      {recipe && (
        <RecipeSheet
          key={`${recipe.name} ${keyOf(subject)}`}
          recipe={recipe}
          subject={subject}
          dispatch={dispatch}
        />
      )}
    </div>
  );
}
