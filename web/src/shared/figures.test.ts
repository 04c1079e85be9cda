import { expect, test } from "vitest";
import { bytes, counted, fixed, lab, percent } from "./figures";

test("figures carry a true minus sign, and zero has none", () => {
  expect(fixed(-8.44)).toBe("−8.4");
  expect(fixed(-0.04)).toBe("0.0");
  expect(lab([47.56, 61.24, -6.91])).toBe("47.6  61.2  −6.9");
});

test("units", () => {
  expect(percent(229.803, 1)).toBe("229.8 %");
  expect(bytes(5_413_200)).toBe("5.4 MB");
  expect(bytes(12_300)).toBe("12 KB");
});

test("one of a thing is one, and thousands stand apart", () => {
  expect(counted(1, "page")).toBe("1 page");
  expect(counted(12_400, "copy", "copies")).toBe("12,400 copies");
});
