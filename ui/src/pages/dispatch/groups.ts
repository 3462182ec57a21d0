import type { FullRecipe } from "./draft";

const GROUPS: [string, string][] = [
  ["share", "To share"],
  ["edit", "To edit and composite"],
  ["archive", "To archive"],
  ["web", "For web pages"],
  ["pictures", "Pictures"],
  ["project", "Projects"],
];

/** The usual recipes and your own, then all others in groups. */
export function grouped(recipes: FullRecipe[]) {
  const first = recipes.filter((one) => one.usual || one.own);
  const groups = GROUPS.map(([group, label]) => ({
    group,
    label,
    rows: recipes.filter((one) => one.group === group && !first.includes(one)),
  })).filter(({ rows }) => rows.length > 0);
  return { first, groups };
}
