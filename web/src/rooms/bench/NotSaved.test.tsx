import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Recipe } from "../../api/client";
import { NotSaved } from "./NotSaved";
import type { RecipeControl } from "./useRecipe";

const limit = (total_percent: number) => ({ ink: { limits: { total_percent } } }) as unknown as Recipe;
const still = { recipe: limit(220), kept: limit(300), changedBy: "", changedAt: "" };

/** Of a control only what is looked at here. */
const shown = (control: Partial<RecipeControl>) =>
  renderToStaticMarkup(<NotSaved control={{ ...still, ...control } as RecipeControl} />);

test("nothing is said while all is saved, and a colleague's change is told, not alarmed", () => {
  expect(shown({})).toBe("");
  const told = shown({ byOther: { by: "averin", at: "2026-11-27T09:30:00Z" } });
  expect(told).toContain("averin changed these settings, 2026-11-27");
  expect(told).toContain('role="status"');
});

test("what could not be saved says why, whether it is tried again, and both ways out", () => {
  const passing = shown({ unsaved: { message: "The disk is full.", conflict: false, trying: true } });
  expect(passing).toContain("Not saved.</b> The disk is full. It is kept here and tried again.");
  expect(passing).toContain('role="alert"');
  for (const way of ["Try now", "Go back to what is saved"]) expect(passing).toContain(way);
  const lasting = shown({ unsaved: { message: "No such ink.", conflict: false, trying: false } });
  expect(lasting).not.toContain("tried again");
});

test("a conflict shows whose and which figures differ, and lets either be chosen", () => {
  const conflict = shown({
    unsaved: { message: "", conflict: true, trying: false },
    changedBy: "averin",
    changedAt: "2026-11-27T09:30:00Z",
  });
  expect(conflict).toContain("averin changed these settings meanwhile");
  expect(conflict.indexOf("300")).toBeLessThan(conflict.indexOf("220"));
  for (const way of ["Look at theirs", "Save mine over it", "Use theirs"]) expect(conflict).toContain(way);
  // Theirs not read yet: nothing to choose between, and nothing lost.
  expect(shown({ unsaved: { message: "", conflict: true, trying: false }, kept: undefined })).toBe("");
});
