import { describe, expect, it } from "vitest";
import { chosenPoints } from "./chosenPoints";

const whole = {
  rows: [0, 2, 3],
  lab: [
    [10, 0, 0],
    [30, 1, 2],
    [40, 5, 6],
  ],
  rgb: [1, 3, 4],
  // The color of row 2 has no counterpart.
  arrow_rows: [0, 3],
  arrows: [
    [10, 0, 0, 11, 0, 0],
    [40, 5, 6, 44, 5, 6],
  ],
  outside_share: 0.5,
  complete: true,
  places: [
    [7, 7],
    [8, 8],
    [9, 9],
  ],
};

describe("the chosen of points that are here", () => {
  it("keeps each color with its code, its place and its arrow", () => {
    expect(chosenPoints(whole, [3, 2])).toEqual({
      rows: [2, 3],
      lab: [
        [30, 1, 2],
        [40, 5, 6],
      ],
      rgb: [3, 4],
      arrow_rows: [3],
      arrows: [[40, 5, 6, 44, 5, 6]],
      outside_share: 0.5,
      complete: true,
      places: [
        [8, 8],
        [9, 9],
      ],
    });
  });

  it("has nothing of a row without a color, and no places where none are known", () => {
    expect(chosenPoints({ ...whole, places: [] }, [1])).toMatchObject({ lab: [], arrows: [], places: [] });
  });
});
