import { ChevronDown, ChevronRight, SlidersHorizontal } from "lucide-react";
import { useState } from "react";
import { count } from "../../parts/format";
import { type FullRecipe, qualityWords, sizeWords } from "./draft";
import { grouped } from "./groups";
import type { Dispatch } from "./useDispatch";

/** The usual recipes and your own, then all others in groups that a press opens. */
export function RecipeRows({ dispatch }: { dispatch: Dispatch }) {
  const { recipes, chosen } = dispatch;
  const [opened, setOpened] = useState<string[]>([]);
  const { first, groups } = grouped(recipes);
  return (
    <table className="w-full border-y rule bg-base-100 text-small" aria-label="Recipes">
      <thead className="max-md:hidden">
        <tr className="quiet text-left text-note">
          <th className="w-8">
            <span className="sr-only">Chosen</span>
          </th>
          <th className="py-1 pr-3 font-normal">Good for</th>
          <th className="pr-3 font-normal">Cannot keep</th>
          <th className="pr-3 font-normal">Quality</th>
          <th className="pr-3 font-normal">Size</th>
          <th className="w-8">
            <span className="sr-only">Settings</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {first.map((recipe) => (
          <RecipeRow key={recipe.name} recipe={recipe} dispatch={dispatch} />
        ))}
      </tbody>
      {groups.map(({ group, label, rows }) => {
        const open = opened.includes(group);
        const inside = rows.filter((one) => chosen.includes(one.name)).length;
        const Icon = open ? ChevronDown : ChevronRight;
        return (
          <tbody key={group}>
            <tr className="border-t rule">
              <th colSpan={6} className="p-0 text-left font-normal">
                <button
                  type="button"
                  className="flex w-full items-center gap-2 px-1 py-1.5 text-left hover:bg-base-200"
                  aria-expanded={open}
                  onClick={() => setOpened(open ? opened.filter((one) => one !== group) : [...opened, group])}
                >
                  <Icon size={15} aria-hidden />
                  <b>{label}</b>
                  <span className="quiet text-note">
                    {count(rows.length, "recipe")}
                    {inside > 0 && `, ${inside} chosen`}
                  </span>
                </button>
              </th>
            </tr>
            {open && rows.map((one) => <RecipeRow key={one.name} recipe={one} dispatch={dispatch} />)}
          </tbody>
        );
      })}
    </table>
  );
}

/** A recipe: what it is good for, what it cannot keep, its settings in short. */
function RecipeRow({ recipe, dispatch }: { recipe: FullRecipe; dispatch: Dispatch }) {
  const document = dispatch.documentOf(recipe.name) ?? recipe.document;
  const open = dispatch.open === recipe.name;
  return (
    <tr data-testid="recipe" className={`border-t rule ${open ? "bg-primary/10" : ""}`}>
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
      <td className="quiet pr-3 text-note max-md:hidden">{recipe.loses}</td>
      <td className="figures whitespace-nowrap pr-3 max-md:hidden">
        {qualityWords(recipe, document)}
        {dispatch.drafts[recipe.name] && <span title="Changed here"> *</span>}
      </td>
      <td className="figures whitespace-nowrap pr-3 max-md:hidden">
        {recipe.pictures && sizeWords(document)}
      </td>
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
}
