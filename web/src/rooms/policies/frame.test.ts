import { describe, expect, it } from "vitest";
import type { PdfDocument } from "../../api/policyQueries";
import { frameOf, seen } from "./frame";

const document = {
  frames: [
    { pages: 2, box: [0, 0, 100, 200], turned: 0 },
    { pages: 1, box: [10, 20, 110, 220], turned: 90 },
    { pages: 1, box: [10, 20, 110, 220], turned: 180 },
    { pages: 1, box: [10, 20, 110, 220], turned: 270 },
  ],
} as PdfDocument;

describe("frames of pages", () => {
  it("finds a page among alike ones, and its size as it is seen", () => {
    expect(frameOf(document, 2)).toMatchObject({ width: 100, height: 200 });
    expect(frameOf(document, 3)).toMatchObject({ width: 200, height: 100, turned: 90 });
    expect(frameOf(document, 6)).toBeUndefined();
  });

  it("turns boxes with their page, clockwise", () => {
    // A mark in the lower left corner of the page as it stands in the file.
    const mark = [10, 20, 15, 40];
    const at = (page: number) => seen(frameOf(document, page) as never, mark);
    expect(at(3)).toEqual([0, 0, 20, 5]);
    expect(at(4)).toEqual([95, 0, 5, 20]);
    expect(at(5)).toEqual([180, 95, 20, 5]);
    expect(seen(frameOf(document, 1) as never, [0, 0, 10, 10])).toEqual([0, 190, 10, 10]);
  });
});
