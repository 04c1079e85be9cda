import { expect, test } from "vitest";
import { linesOf, linesPasted } from "./paletteLines";

test("a list pasted into a row becomes rows, a word stays in its row, and a table is taken whole", () => {
  expect(linesPasted(["Leaf #2f8f3a"], 1, "Rust\t52 38 44\r\n\r\nSky 60 -10 -40\n")).toEqual([
    "Leaf #2f8f3a",
    "Rust 52 38 44",
    "Sky 60 -10 -40",
  ]);
  expect(linesPasted(["Leaf"], 0, "#2f8f3a")).toBeUndefined();
  const table = "CGATS.17\nBEGIN_DATA_FORMAT\nLAB_L LAB_A LAB_B";
  expect(linesPasted(["Leaf"], 0, table)).toEqual([table]);
  expect(linesOf(table)).toEqual([]);
  const named = "Name;L*;a*;b*\nLeaf;52;-38;30\n";
  expect(linesPasted(["Leaf"], 0, named)).toEqual([named]);
  expect(linesOf(named)).toEqual([]);
  expect(linesOf("L* 52 -38 30")).toEqual(["L* 52 -38 30"]);
});
