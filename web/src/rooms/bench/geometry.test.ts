import { describe, expect, test } from "vitest";
import { fitted, hold, nextZoom, pixelAt, visible, zoomAt } from "./geometry";

const artwork = { width: 2400, height: 1600 };
const stage = { width: 870, height: 630 };

describe("the artwork on the stage", () => {
  test("fits whole, and all of it is asked for", () => {
    const placing = fitted(artwork, stage);
    expect(artwork.width * placing.zoom).toBeLessThanOrEqual(stage.width);
    expect(visible(placing, artwork, stage)).toMatchObject({ left: 0, top: 0, zoom: placing.zoom });
  });

  test("ends above the tools, however many rows they take", () => {
    const low = { width: 410, height: 277 };
    for (const tools of [27, 60]) {
      const placing = fitted(artwork, low, tools);
      expect(placing.y + artwork.height * placing.zoom).toBeLessThanOrEqual(low.height - tools - 12);
    }
  });

  test("zooming keeps the pixel under the pointer", () => {
    const before = fitted(artwork, stage);
    const after = zoomAt(before, 4, 400, 300);
    expect(after.zoom).toBe(4);
    expect(pixelAt(after, artwork, 400, 300)?.[0]).toBeCloseTo(
      pixelAt(before, artwork, 400, 300)?.[0] ?? 0,
      -1,
    );
  });

  test("only what is visible is asked for", () => {
    const window = visible({ zoom: 2, x: -1000, y: -400 }, artwork, stage);
    expect(window).toEqual({ left: 500, top: 200, width: 870, height: 630, zoom: 2 });
  });

  test("steps up and down pass the actual pixels", () => {
    const seen: number[] = [];
    for (let zoom = 0.33; zoom < 8; zoom = nextZoom(zoom, 1)) seen.push(zoom);
    expect(seen).toContain(1);
    expect(nextZoom(2, -1)).toBe(1);
    expect(nextZoom(1, -1)).toBeLessThan(1);
  });

  test("cannot be dragged away", () => {
    const held = hold({ zoom: 1, x: 99999, y: -99999 }, artwork, stage);
    expect(visible(held, artwork, stage)).toBeDefined();
  });
});
