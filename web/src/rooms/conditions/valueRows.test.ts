import { expect, test } from "vitest";
import { valueRows } from "./valueRows";

test("values are read as people part them, and lines that are no values are named", () => {
  const typed = "50 30 −20\n50,5; 30; 30\n50, 30.5, 30\n50,30,30\n\n50\t30\t30,25\n50 30\nL a b";
  expect(valueRows(typed, 3)).toEqual({
    rows: [
      [50, 30, -20],
      [50.5, 30, 30],
      [50, 30.5, 30],
      [50, 30, 30],
      [50, 30, 30.25],
    ],
    unread: [7, 8],
  });
});
