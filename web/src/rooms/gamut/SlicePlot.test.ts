import { expect, test } from "vitest";
import { ringAt, ringSize } from "./SlicePlot";

/** Rings of circles at three lightnesses, with the darkest and lightest point behind them, as the core has hulls. */
const circles = (hues: number) => {
  const ring = (lightness: number) =>
    Array.from({ length: hues }, (_, at) => {
      const angle = (at / hues) * 2 * Math.PI;
      return [lightness, 40 * Math.cos(angle), 40 * Math.sin(angle)];
    });
  return { points: [...ring(20), ...ring(50), ...ring(80), [20, 0, 0], [80, 0, 0]] };
};

test.each([48, 90, 96])("a cut is the whole ring, however many hues (%i) the hull has", (hues) => {
  expect(ringSize(circles(hues).points)).toBe(hues);
  const ring = ringAt(circles(hues), 50);
  expect(ring).toHaveLength(hues);
  // It went around once: what is up and what is down of the middle are as many.
  expect(ring.filter(([, , b = 0]) => b > 0.1).length).toBe(ring.filter(([, , b = 0]) => b < -0.1).length);
  expect(ringAt(circles(hues), 35)).toEqual([]);
});
