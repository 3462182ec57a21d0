import type { Schemas } from "../../api/client";

export type FullRecipe = Schemas["FullRecipeBody"];
export type RecipeDocument = FullRecipe["document"];

/** What is changed of a recipe before it is used, by its name. */
export type Drafts = Record<string, RecipeDocument>;

/** A document with some values of a part replaced. */
export function withPart<K extends "quality" | "size" | "timing" | "palette">(
  document: RecipeDocument,
  part: K,
  values: Partial<NonNullable<RecipeDocument[K]>>,
): RecipeDocument {
  return { ...document, [part]: { ...document[part], ...values } };
}

/** The quality in a few words. */
export function qualityWords(recipe: FullRecipe, document: RecipeDocument): string {
  if (!recipe.pictures) return "";
  const quality = document.quality;
  if (quality?.at_most) return `at most ${quality.at_most}`;
  if (quality?.kilobits) return `${quality.kilobits} kbit/s`;
  if (document.codec.startsWith("prores")) return "fixed";
  if (!recipe.scale)
    return recipe.document.codec === "gif" ? `${document.palette?.colours ?? 256} colours` : "lossless";
  return `${recipe.scale.best < recipe.scale.worst ? "CRF" : "quality"} ${quality?.level ?? recipe.scale.usual}`;
}

/** The size in a few words, of frames of a size. */
export function sizeWords(document: RecipeDocument): string {
  const size = document.size;
  if (size?.long_side) return `at most ${size.long_side} px`;
  if (size?.width && size.height) return `${size.width} × ${size.height}`;
  if (size?.width) return `${size.width} px wide`;
  if (size?.height) return `${size.height} px high`;
  return "as captured";
}
