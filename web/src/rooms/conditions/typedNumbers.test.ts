import { expect, test } from "vitest";
import { curveOf, linesOf, numbersOf, pastedInto, unfinished } from "./typedNumbers";

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

test("a pasted table names its inks and makes the lines it needs; what is no color yet is told", () => {
  const lines = [line("", ["92", "0", "3"], "", 0), line("C", ["", "", ""], "", 1)];
  const pasted = pastedInto(lines, 0, 0, "Paper\t93\t0\t2\nC\t55\t−36\t-45,5\t18\nC + M\t28\t18\t-44\n");
  expect(pasted?.map((each) => [each.id, each.inks, each.values, each.gain])).toEqual([
    [0, "", ["93", "0", "2"], ""],
    [1, "C", ["55", "−36", "-45,5"], "18"],
    [2, "C + M", ["28", "18", "-44"], ""],
  ]);
  expect(pastedInto(lines, 1, 1, "-36 -45")?.[1]?.values).toEqual(["", "-36", "-45"]);
  expect(pastedInto(lines, 1, 0, "55")).toBeUndefined();
  expect(unfinished([...lines, line("M", ["48", "7o", "0"]), line("Y", ["", "", ""])])).toHaveLength(1);
});
