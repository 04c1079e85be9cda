import type { InkNumbers } from "../../api/conditionQueries";
import { isNumber, number } from "../../shared/typedNumber";

/** A line of the table: inks ("" for the paper), L*a*b*, and the gain of a solid, all as they are typed. */
export interface TypedLine {
  id: number;
  inks: string;
  values: [string, string, string];
  /** One figure at the half tone, or a tone curve: dot:tone pairs, "25:38 50:67 75:88". */
  gain: string;
}

export const EMPTY: [string, string, string] = ["", "", ""];

export const keyOf = (inks: string) => inks.replace(/\s*\+\s*/g, "+").trim();
/** 'CM', 'C+M' and 'C + M' are overprints; one letter, or a name without +, is a solid. */
export const isOverprint = (inks: string) => keyOf(inks).includes("+") || /^[CMYK]{2,}$/.test(keyOf(inks));
export const isCurve = (gain: string) => gain.includes(":");

/** The pairs of a tone curve; nothing while one of them is not whole. */
export function curveOf(gain: string): [number, number][] | undefined {
  const pairs = gain
    .trim()
    .split(/[\s;]+/)
    .map((pair) => pair.split(":"));
  const whole = pairs.every((pair) => pair.length === 2 && pair.every(isNumber));
  return whole ? pairs.map(([dot, tone]) => [number(dot ?? ""), number(tone ?? "")]) : undefined;
}

/** A row of nothing, to be typed or pasted into. */
export const emptyLine = (lines: TypedLine[], inks: string): TypedLine => ({
  id: Math.max(-1, ...lines.map((line) => line.id)) + 1,
  inks,
  values: EMPTY,
  gain: "",
});

/**
 * The lines after a table that was copied elsewhere is pasted at a cell: its cells fill the ones from there on, a name
 * before its numbers names the inks, and rows beyond the last line make lines of their own. Nothing where it is one value.
 */
export function pastedInto(
  lines: TypedLine[],
  at: number,
  axis: number,
  text: string,
): TypedLine[] | undefined {
  const rows = text
    .trim()
    .split(/\r?\n/)
    .map((row) => row.split(/[\t;]|\s+/).filter(Boolean));
  if (rows.length === 1 && (rows[0]?.length ?? 0) < 2) return undefined;
  const next = [...lines];
  for (const [down, cells] of rows.entries()) {
    const line = next[at + down] ?? emptyLine(next, "");
    const values: TypedLine["values"] = [...line.values];
    let { inks, gain } = line;
    const named = cells.findIndex(isNumber);
    if (named > 0 && at + down > 0) inks = cells.slice(0, named).join(" ");
    for (const [right, cell] of cells.slice(Math.max(named, 0)).entries()) {
      const place = axis + right;
      if (place < 3) values[place] = cell;
      else if (place === 3) gain = cell;
    }
    next[at + down] = { ...line, inks, values, gain };
  }
  return next;
}

/** Lines with something typed that is not, or not yet, a color: they are not counted. */
export const unfinished = (lines: TypedLine[]) =>
  lines.filter((line) => line.values.some((value) => value.trim() !== "") && !line.values.every(isNumber));

/** What the lines say, as far as they are whole. */
export function numbersOf(name: string, lines: TypedLine[], spread: number): InkNumbers | undefined {
  const whole = lines.filter((line) => line.values.every(isNumber));
  const lab = (line: TypedLine) => line.values.map(number) as [number, number, number];
  const paper = whole.find((line) => keyOf(line.inks) === "");
  const solids = whole.filter((line) => keyOf(line.inks) && !isOverprint(line.inks));
  if (!paper || solids.length === 0) return undefined;
  const curves = solids.flatMap((line): [string, [number, number][]][] => {
    const curve = isCurve(line.gain) && curveOf(line.gain);
    return curve ? [[keyOf(line.inks), curve]] : [];
  });
  return {
    name,
    paper: lab(paper),
    solids: Object.fromEntries(solids.map((line) => [keyOf(line.inks), lab(line)])),
    overprints: Object.fromEntries(
      whole.filter((line) => isOverprint(line.inks)).map((line) => [keyOf(line.inks), lab(line)]),
    ),
    gain_percent: Object.fromEntries(
      solids.filter((line) => isNumber(line.gain)).map((line) => [keyOf(line.inks), number(line.gain)]),
    ),
    tone_curves: Object.fromEntries(curves),
    yule_nielsen_n: spread,
  };
}

/** The lines of numbers that were imported: paper, solids, overprints. */
export function linesOf(numbers: InkNumbers): TypedLine[] {
  const gains = numbers.gain_percent;
  const curves = numbers.tone_curves;
  const all: [string, readonly number[]][] = [
    ["", numbers.paper],
    ...Object.entries(numbers.solids),
    ...Object.entries(numbers.overprints ?? {}),
  ];
  return all.map(([inks, lab], id) => ({
    id,
    inks,
    values: lab.map(String) as [string, string, string],
    gain:
      curves[inks]?.map((pair) => pair.join(":")).join(" ") ??
      (gains[inks] === undefined ? "" : String(gains[inks])),
  }));
}
