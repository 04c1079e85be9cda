import type { Recipe } from "../../api/client";

/** The name that a rule will give, as far as it can be told before the file is written. */
export function exampleName(
  rule: string,
  artwork: string,
  condition: string,
  recipe: Recipe,
  today: Date,
): string {
  const fields: Record<string, string> = {
    artwork: artwork.replace(/\.[^.]+$/, ""),
    condition,
    intent: recipe.aim.intent,
    limit:
      recipe.ink.method === "rebuilt" ? String(Math.round(recipe.ink.limits.total_percent)) : "as profiled",
    date: today.toISOString().slice(0, 10),
  };
  return `${rule.replace(/{([^}]*)}/g, (whole, name: string) => fields[name] ?? whole)}.tif`;
}
