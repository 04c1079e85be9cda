import type { components } from "./schema";

type Points = components["schemas"]["PointsOut"];

/** Of all points of a list, those of the chosen rows: what is here already is not asked for again. */
export function chosenPoints(whole: Points, chosen: readonly number[]): Points {
  const wanted = new Set(chosen);
  const points = at(whole.rows, wanted);
  const arrows = at(whole.arrow_rows, wanted);
  return {
    ...whole,
    rows: taken(whole.rows, points),
    lab: taken(whole.lab, points),
    rgb: taken(whole.rgb, points),
    places: whole.places.length ? taken(whole.places, points) : [],
    arrow_rows: taken(whole.arrow_rows, arrows),
    arrows: taken(whole.arrows, arrows),
  };
}

function at(rows: readonly number[], wanted: ReadonlySet<number>): number[] {
  return rows.flatMap((row, index) => (wanted.has(row) ? [index] : []));
}

function taken<T>(values: readonly T[], indices: readonly number[]): T[] {
  return indices.map((index) => values[index] as T);
}
