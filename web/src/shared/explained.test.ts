import { expect, test } from "vitest";
import text from "../../../docs/guide/settings.md?raw";
import { EXPLAINED } from "./explained";

test("what the guide says of a setting stands at the setting", () => {
  const limit = EXPLAINED.get("Ink limit");
  expect(limit?.sentence).toBe(
    "Ink limit is the most ink on one place, all inks together. No pixel of a written file has more.",
  );
  expect(limit?.href).toBe("/guide/settings#ink-limit");
  // One sentence a name: a second one of the same name would be lost.
  expect(EXPLAINED.size).toBe(text.match(/^- /gm)?.length);
  for (const { sentence } of EXPLAINED.values()) expect(sentence).toMatch(/^[A-Z][^*_[\]]+\.$/);
});
