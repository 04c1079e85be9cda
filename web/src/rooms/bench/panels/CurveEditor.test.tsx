import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { CurvePoints } from "../../../api/client";
import { CurveEditor } from "./CurveEditor";
import core from "./curve.values.json";
import { monotone } from "./monotone";

/** Where a path of cubic pieces has a given x: its pieces are walked in small steps. */
function heights(path: string): (x: number) => number {
  const numbers = (text: string) => [...text.matchAll(/-?[\d.]+/g)].map(Number);
  const places: [number, number][] = [];
  for (const [, letter, rest = ""] of path.matchAll(/([MLC])([^MLC]*)/g)) {
    const given = numbers(rest);
    const [x0, y0] = places.at(-1) ?? [0, 0];
    if (letter !== "C") {
      places.push([given[0] ?? 0, given[1] ?? 0]);
      continue;
    }
    const [x1 = 0, y1 = 0, x2 = 0, y2 = 0, x3 = 0, y3 = 0] = given;
    for (let t = 1; t <= 200; t++) {
      const s = t / 200;
      const bezier = (a: number, b: number, c: number, d: number) =>
        (1 - s) ** 3 * a + 3 * (1 - s) ** 2 * s * b + 3 * (1 - s) * s ** 2 * c + s ** 3 * d;
      places.push([bezier(x0, x1, x2, x3), bezier(y0, y1, y2, y3)]);
    }
  }
  return (x) => {
    const next = places.findIndex(([at]) => at >= x);
    const [x1, y1] = places[Math.max(next, 0)] ?? [0, 0];
    const [x0, y0] = places[next - 1] ?? [x1, y1];
    return x1 === x0 ? y1 : y0 + ((x - x0) / (x1 - x0)) * (y1 - y0);
  };
}

test("a curve is drawn where the core applies it, whatever its points", () => {
  for (const { points, values } of core.curves) {
    const height = heights(
      monotone(
        points as CurvePoints,
        (x) => x * 10_000,
        (y) => y * 10_000,
      ),
    );
    core.at.forEach((at, index) => {
      expect(height(at * 10_000) / 10_000, `${points.join(" ")} at ${at}`).toBeCloseTo(values[index] ?? 0, 2);
    });
  }
});

test("the editor shows each point, says what it does by keys, and takes CSV and SVG along", () => {
  const points = core.curves[2]?.points as CurvePoints;
  const shown = renderToStaticMarkup(
    <CurveEditor
      label="all channels"
      points={points}
      scale={255}
      axes={["code in", "code out"]}
      histogram={[0.2, 1, 0.4]}
      onMove={() => undefined}
      onRest={() => undefined}
    />,
  );
  expect(shown.match(/<rect[^>]*width="8"/g)).toHaveLength(points.length);
  expect(shown).toContain('aria-label="Curve of all channels"');
  expect(shown).toContain("PageUp PageDown ArrowUp ArrowDown ArrowLeft ArrowRight Insert Delete");
  expect(shown).toContain(`${points.length} points: press for another`);
  // Both axes say what they count, to the last code.
  for (const word of ["code in", "code out", ">255<", "CSV", "SVG"]) expect(shown).toContain(word);
});
