import { isNumber, number } from "../../shared/typedNumber";

/** Rows of numbers as they are typed, and the lines, counted from 1, that are not so many numbers. */
export interface ValueRows {
  rows: number[][];
  unread: number[];
}

/** Numbers of a line, however they are parted; a comma that does not part them is a decimal point. */
function numbersIn(line: string, count: number): number[] | undefined {
  const ways = [line.split(/[\s;]+/), line.split(/\s*,\s+|[\s;]+/), line.split(/[\s,;]+/)];
  const found = ways
    .map((parts) => parts.filter((part) => part !== ""))
    .find((parts) => parts.length === count && parts.every(isNumber));
  return found?.map(number);
}

/** One row of `count` values a line; lines of nothing are passed over. */
export function valueRows(text: string, count: number): ValueRows {
  const read: ValueRows = { rows: [], unread: [] };
  for (const [at, line] of text.split("\n").entries()) {
    if (line.trim() === "") continue;
    const row = numbersIn(line.trim(), count);
    if (row) read.rows.push(row);
    else read.unread.push(at + 1);
  }
  return read;
}
