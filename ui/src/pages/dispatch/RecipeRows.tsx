import { SlidersHorizontal } from "lucide-react";
import { qualityWords, sizeWords } from "./draft";
import type { Dispatch } from "./useDispatch";

/** A row a recipe: what it is good for, what it cannot keep, its settings in short. */
export function RecipeRows({ dispatch }: { dispatch: Dispatch }) {
  return (
    <table className="w-full border-y rule bg-base-100 text-small" aria-label="Recipes">
      <thead>
        <tr className="quiet text-left text-note">
          <th className="w-8" aria-label="Chosen" />
          <th className="py-1 pr-3 font-normal">Good for</th>
          <th className="pr-3 font-normal">Cannot keep</th>
          <th className="pr-3 font-normal">Quality</th>
          <th className="pr-3 font-normal">Size</th>
          <th className="w-8" aria-label="Settings" />
        </tr>
      </thead>
      <tbody>
        {dispatch.recipes.map((recipe) => {
          const document = dispatch.documentOf(recipe.name) ?? recipe.document;
          const open = dispatch.open === recipe.name;
          return (
            <tr
              key={recipe.name}
              data-testid="recipe"
              className={`border-t rule ${open ? "bg-primary/10" : ""}`}
            >
              <td className="px-1 py-1">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  aria-label={`Make ${recipe.name}`}
                  checked={dispatch.chosen.includes(recipe.name)}
                  onChange={() => dispatch.toggle(recipe.name)}
                />
              </td>
              <td className="py-1 pr-3">
                <b>{recipe.name}</b> <span className="quiet figures">{recipe.suffix || "/"}</span>
                <div className="quiet text-note">{recipe.about}</div>
              </td>
              <td className="quiet pr-3 text-note">{recipe.loses}</td>
              <td className="figures whitespace-nowrap pr-3">
                {qualityWords(recipe, document)}
                {dispatch.drafts[recipe.name] && <span title="Changed here"> *</span>}
              </td>
              <td className="figures whitespace-nowrap pr-3">{recipe.pictures && sizeWords(document)}</td>
              <td>
                <button
                  type="button"
                  className="btn btn-ghost btn-xs btn-square"
                  aria-label={`Settings of ${recipe.name}`}
                  aria-expanded={open}
                  title="Settings, and how it will look"
                  onClick={() => dispatch.setOpen(open ? null : recipe.name)}
                >
                  <SlidersHorizontal size={15} aria-hidden />
                </button>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
