import { merged } from "../../api/merge";
import { FormRows } from "../../form/FormRows";
import type { FullRecipe, RecipeDocument } from "./draft";

interface Props {
  recipe: FullRecipe;
  document: RecipeDocument;
  /** Whether frames of the take are missing. */
  holes: boolean;
  onChange: (document: RecipeDocument) => void;
}

/** What can be set of a recipe; only what its kind of file has. */
export function RecipeSettings({ recipe, document, holes, onChange }: Props) {
  const { scale } = recipe;
  const [low, high] = scale ? [scale.best, scale.worst].sort((one, other) => one - other) : [0, 0];
  return (
    <div>
      <FormRows
        form="recipe"
        values={{
          ...document,
          quality: { ...document.quality, level: document.quality?.level ?? scale?.usual },
        }}
        known={{
          plain: recipe.pictures && document.codec !== "as-made",
          video: recipe.video,
          scale: scale !== null,
          low,
          high,
          best: scale?.best,
          worst: scale?.worst,
          limited: scale !== null || document.codec === "gif",
          timed: !["folder", "still"].includes(document.container),
          holes,
          plays: recipe.plays,
          keeps_alpha: recipe.alpha,
        }}
        onSet={(patch) => onChange(merged(document, patch))}
      />
    </div>
  );
}
