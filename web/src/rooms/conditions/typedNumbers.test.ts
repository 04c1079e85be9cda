import { expect, test } from "vitest";
import { curveOf, linesOf, numbersOf } from "./typedNumbers";

const line = (inks: string, values: [string, string, string], gain = "", id = 0) => ({
  id,
  inks,
  values,
  gain,
});

test("figures are read as they are typed, with a comma, a true minus or a dash", () => {
  const found = numbersOf(
    "Tote",
    [line("", ["92", "0", "3"]), line("C", ["55", "−36", "-45,5"], "22"), line("C + M", ["28", "18", "–44"])],
    1.7,
  );
  expect(found?.solids).toEqual({ C: [55, -36, -45.5] });
  expect(found?.overprints).toEqual({ "C+M": [28, 18, -44] });
  expect(found?.gain_percent).toEqual({ C: 22 });
  expect(numbersOf("Tote", [line("C", ["55", "0", "0"])], 1.7)).toBeUndefined();
});

test("a gain is one figure or a tone curve, and an imported curve stays", () => {
  expect(curveOf("25:38 50:67,5;75:88")).toEqual([
    [25, 38],
    [50, 67.5],
    [75, 88],
  ]);
  expect(curveOf("25:38 50:")).toBeUndefined();
  const given = numbersOf(
    "Tote",
    [
      line("", ["92", "0", "3"]),
      line("K", ["22", "0", "1"], "25:38 50:67"),
      line("M", ["50", "70", "-4"], "20"),
    ],
    2,
  );
  expect(given?.tone_curves).toEqual({
    K: [
      [25, 38],
      [50, 67],
    ],
  });
  expect(given?.gain_percent).toEqual({ M: 20 });
  // Imported again they were lost, and the usual gain stood in their place.
  expect(given && numbersOf("Tote", linesOf(given), 2)).toEqual(given);
});
