/** CGATS text, or a first line that names the fields, is a table of its own and is not edited line by line. */
export const isTable = (text: string) =>
  text.includes("BEGIN_DATA_FORMAT") || /^[^\n]*\b(L\*|LAB_L|XYZ_X)\s*["\t;, ][^\n]*\n/i.test(text);

/** A color a line; no lines of nothing. */
export const linesOf = (text: string) => (text === "" || isTable(text) ? [] : text.split("\n"));

/** The lines after pasting into one of them; nothing where it is a mere word, which goes where the cursor is. */
export function linesPasted(lines: string[], at: number, pasted: string): string[] | undefined {
  if (isTable(pasted)) return [pasted];
  const fresh = pasted
    .split(/\r?\n/)
    .map((line) => line.replaceAll("\t", " ").trim())
    .filter(Boolean);
  return fresh.length > 1 ? [...lines.slice(0, at), ...fresh, ...lines.slice(at + 1)] : undefined;
}
