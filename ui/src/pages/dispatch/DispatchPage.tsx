import { Link } from "react-router";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { PageHead } from "../../parts/PageHead";
import { DispatchBar } from "./DispatchBar";
import { ExportSources } from "./ExportSources";
import { RecipeRows } from "./RecipeRows";
import { RecipeSheet } from "./RecipeSheet";
import { SentFiles } from "./SentFiles";
import { keyOf } from "./subject";
import { useDispatch } from "./useDispatch";

/** Dispatch: makes files of takes and reels, and compares each with its plan. */
export function DispatchPage() {
  const dispatch = useDispatch();
  const { subject } = dispatch;
  if (!subject)
    return (
      <div className="mx-auto max-w-2xl p-8">
        <Head />
        {dispatch.error ? (
          <ErrorAlert error={dispatch.error} />
        ) : dispatch.loading ? (
          <p className="quiet" role="status">
            Loading takes and recipes…
          </p>
        ) : (
          <p className="quiet">
            Files are made of takes.{" "}
            <Link to="/" className="link link-primary">
              Capture a shot
            </Link>{" "}
            first.
          </p>
        )}
      </div>
    );
  const recipe = dispatch.recipes.find((one) => one.name === dispatch.open);
  return (
    <div className="relative flex h-full min-h-0">
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="min-h-0 flex-1 overflow-auto px-6 py-4 max-sm:px-3">
          <Head />
          <ExportSources dispatch={dispatch} />
          {dispatch.troubles.map((trouble) => (
            <ErrorAlert key={trouble} error={trouble} />
          ))}
          <RecipeRows dispatch={dispatch} />
          <SentFiles />
        </div>
        <DispatchBar dispatch={dispatch} />
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

const Head = () => (
  <PageHead title="Dispatch">Export files from takes and reels. Each is compared with its plan.</PageHead>
);
