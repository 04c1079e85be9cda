import { expect, test } from "vitest";
import { figureOf } from "./typedNumber";

test("figures are read with their unit, a comma or a dash; what cannot be kept is told, not taken for none", () => {
  const ppi = { min: 10, max: 10_000, optional: true };
  expect(figureOf("300 ppi", ppi)).toBe(300);
  expect(figureOf("2,5 %", { min: 0, max: 20 })).toBe(2.5);
  expect(figureOf("–3", { min: -5, max: 5 })).toBe(-3);
  expect(figureOf(" ", ppi)).toBeNull();
  expect(figureOf(" ", { min: 50, max: 100 })).toBe("This is no number.");
  // It was sent as nothing, and took the limit of an output away.
  expect(figureOf("three hundred", ppi)).toBe("This is no number.");
  expect(figureOf("9", ppi)).toBe("10 to 10000 here.");
  expect(figureOf("2.5", { min: 1, max: 9, whole: true })).toBe("A whole number is wanted.");
});
