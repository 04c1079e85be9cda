import { expect, test } from "vitest";
import type { Recipe } from "../../api/client";
import { exampleName } from "./nameRule";

const recipe = {
  aim: { intent: "relative", bpc: true },
  ink: { method: "rebuilt", limits: { total_percent: 230, per_ink_percent: [] } },
  deliver: { format: "tiff" },
} as unknown as Recipe;
const day = new Date("2026-11-23T12:00:00Z");

test("fields are filled and others are left for the server to refuse", () => {
  expect(exampleName("{artwork} {condition}", "Night moth.tif", "Cotton 54T", recipe, day)).toBe(
    "Night moth Cotton 54T.tif",
  );
  expect(exampleName("{date} {limit} {intent}", "a.b.png", "x", recipe, day)).toBe(
    "2026-11-23 230 relative.tif",
  );
  expect(exampleName("{customer}", "a", "x", recipe, day)).toBe("{customer}.tif");
});

test("films, negative and hard proof of one artwork have names of their own", () => {
  const film = { container: "tiff" };
  const as = (format: string, plates = 4) =>
    exampleName(
      "{artwork}",
      "moth.tif",
      "x",
      { ...recipe, deliver: { format, film, negative: { film: { container: "pdf" } } } } as unknown as Recipe,
      day,
      plates,
    );
  expect([as("pdf"), as("films"), as("films", 1), as("negative"), as("hard-proof")]).toEqual([
    "moth.pdf",
    "moth films.zip",
    "moth films.tif",
    "moth negative.pdf",
    "moth hard proof.pdf",
  ]);
});

test("as profiled has no limit to name", () => {
  const profiled = { ...recipe, ink: { ...recipe.ink, method: "as-profiled" } } as Recipe;
  expect(exampleName("{limit}", "a", "x", profiled, day)).toBe("as profiled.tif");
});
