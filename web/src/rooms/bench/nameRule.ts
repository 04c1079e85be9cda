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
  return rule.replace(/{([^}]*)}/g, (whole, name: string) => fields[name] ?? whole) + suffix(recipe.deliver);
}

/** The ending that goes with the format. */
export function suffix(deliver: Recipe["deliver"]): string {
  if (deliver.format === "films") return deliver.film.container === "tiff" ? ".zip" : ".pdf";
  if (deliver.format === "negative") return deliver.negative.film.container === "tiff" ? ".tif" : ".pdf";
  return { tiff: ".tif", jpeg: ".jpg", pdf: ".pdf", "hard-proof": ".pdf" }[deliver.format];
}
