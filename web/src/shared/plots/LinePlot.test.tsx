import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import { LinePlot, valueAt } from "./LinePlot";

const lines = [
  {
    name: "C",
    color: "#0aa",
    points: [
      [0, 0],
      [50, 40],
      [100, 90],
    ] as [number, number][],
  },
  {
    name: "K",
    color: "#000",
    points: [
      [0, 0],
      [50, 10],
      [100, 88],
    ] as [number, number][],
  },
  {
    name: "K",
    color: "#000",
    unnamed: true,
    dash: "2 2",
    points: [
      [0, 5],
      [100, 80],
    ] as [number, number][],
  },
]; // prettier-ignore

const plot = (handles?: Parameters<typeof LinePlot>[0]["handles"]) =>
  renderToStaticMarkup(
    <LinePlot
      title="Inks along the gray axis"
      x={{ name: "L*", range: [0, 100], ticks: [0, 50, 100] }}
      y={{ name: "ink", unit: "%", range: [0, 100], ticks: [0, 50, 100] }}
      lines={lines}
      mark={30}
      handles={handles}
    />,
  );

test("lines have their names at their ends, axes their ticks and units, and a line that stands for another none", () => {
  const shown = plot();
  expect(shown.match(/class="name"[^>]*>C</g)).toHaveLength(1);
  expect(shown.match(/class="name"[^>]*>K</g)).toHaveLength(1);
  expect(shown.match(/stroke-dasharray="2 2"/g)).toHaveLength(1);
  for (const word of ["Inks along the gray axis", ">0<", ">50<", ">100<", "ink", "%", "CSV", "SVG"])
    expect(shown).toContain(word);
  // The names do not lie upon each other, however near the lines end.
  const heights = [...shown.matchAll(/class="name" x="[\d.]+" y="([\d.]+)"/g)].map((found) =>
    Number(found[1]),
  );
  expect(Math.abs((heights[0] ?? 0) - (heights[1] ?? 0))).toBeGreaterThanOrEqual(10.9);
});

test("a place on the axis is a slider with its value in words", () => {
  const handle = {
    name: "Black start",
    at: 30,
    text: "30 %",
    onMove: () => undefined,
    onRest: () => undefined,
  };
  const shown = plot([handle]);
  expect(shown).toMatch(
    /role="slider"[^>]*aria-label="Black start"|aria-label="Black start"[^>]*role="slider"/,
  );
  expect(shown).toContain('aria-valuetext="30 %"');
});

test("a line is read between its points and nowhere beyond them", () => {
  const [cyan] = lines;
  if (!cyan) throw new Error("there is a line");
  expect(valueAt(cyan, 25)).toBe(20);
  expect(valueAt(cyan, 100)).toBe(90);
  expect(valueAt(cyan, 100.1)).toBeUndefined();
  expect(
    valueAt(
      {
        points: [
          [100, 1],
          [0, 0],
        ],
      },
      25,
    ),
  ).toBe(0.25); // prettier-ignore
});
