import { expect, test } from "vitest";
import { csvText } from "./copied";
import { valueAt } from "./LinePlot";
import { apart, scaleOf, ticksOf } from "./scale";

test("an axis may fall, and what lies outside stays at its end", () => {
  const scale = scaleOf({ name: "L*", range: [100, 20] }, 0, 200);
  expect([scale(100), scale(60), scale(20), scale(5)]).toEqual([0, 100, 200, 200]);
  expect(scale.back(50)).toBeCloseTo(80);
});

test("an axis by the root gives small shares room and is read back the same", () => {
  const scale = scaleOf({ name: "share", range: [0, 1], root: true }, 0, 100);
  expect(scale(0.04)).toBeCloseTo(20);
  expect(scale.back(20)).toBeCloseTo(0.04);
});

test("figures stand at even steps within the range, never more than fit", () => {
  expect(ticksOf({ name: "", range: [0, 100] }, 5)).toEqual([0, 20, 40, 60, 80, 100]);
  expect(ticksOf({ name: "", range: [-3, 3] }, 7)).toEqual([-3, -2, -1, 0, 1, 2, 3]);
  expect(ticksOf({ name: "", range: [100, 9] }, 5)).toEqual([20, 40, 60, 80, 100]);
  for (const most of [2, 4, 9]) {
    expect(ticksOf({ name: "", range: [0.13, 7.7] }, most).length).toBeLessThanOrEqual(most + 1);
  }
});

test("names are pushed apart in their order and stay in the plot", () => {
  expect(apart([50, 50, 10], 11, 100)).toEqual([50, 61, 10]);
  expect(apart([99, 98, 97], 11, 100)).toEqual([100, 89, 78]);
});

test("a line is read between its points and nowhere beyond them", () => {
  const line = {
    points: [
      [0, 10],
      [10, 30],
    ] as [number, number][],
  };
  expect(valueAt(line, 5)).toBe(20);
  expect(valueAt(line, 11)).toBeUndefined();
});

test("values are copied as RFC 4180 has them", () => {
  expect(csvText({ head: ["ink, %", "C"], rows: [[1 / 3, 'a "b"']] })).toBe(
    '"ink, %",C\r\n0.3333333,"a ""b"""',
  );
});
