import type { Recipe } from "../../api/client";

/** The name that a rule will give, as far as it can be told before the file is written. */
export function exampleName(
  rule: string,
  artwork: string,
  condition: string,
  recipe: Recipe,
  today: Date,
  plates = 4,
): string {
  const fields: Record<string, string> = {
    artwork: artwork.replace(/\.[^.]+$/, ""),
    condition,
    intent: recipe.aim.intent,
    limit:
      recipe.ink.method === "rebuilt" ? String(Math.round(recipe.ink.limits.total_percent)) : "as profiled",
    date: today.toISOString().slice(0, 10),
  };
  const named = rule.replace(/{([^}]*)}/g, (whole, name: string) => fields[name] ?? whole);
  // A page, its films and its negative may all be PDF: none is written over another.
  const word = WORDS[recipe.deliver.format] ?? "";
  return (named.includes(word) ? named : `${named} ${word}`) + suffix(recipe.deliver, plates);
}

const WORDS: Partial<Record<Recipe["deliver"]["format"], string>> = {
  films: "films",
  negative: "negative",
  "hard-proof": "hard proof",
};

/** The ending that goes with the format; several film TIFFs come in an archive. */
export function suffix(deliver: Recipe["deliver"], plates: number): string {
  if (deliver.format === "films")
    return deliver.film.container === "pdf" ? ".pdf" : plates === 1 ? ".tif" : ".zip";
  if (deliver.format === "negative") return deliver.negative.film.container === "tiff" ? ".tif" : ".pdf";
  return { tiff: ".tif", jpeg: ".jpg", pdf: ".pdf", "hard-proof": ".pdf" }[deliver.format];
}
