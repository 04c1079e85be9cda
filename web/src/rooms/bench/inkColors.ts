/** Lines in plots are drawn in the color that stands for the ink; any further ink is a gray dash. */
const LINES: Record<string, string> = {
  C: "#0093c9",
  M: "#c4147a",
  Y: "#b99b00",
  K: "var(--ink)",
  O: "#cf6a1e",
  B: "#3f4fb4",
  V: "#6f45a6",
  G: "#2b8a4e",
  R: "#c2382a",
  c: "#6fc0de",
  m: "#dd84b4",
  k: "var(--soft)",
};

export function inkColor(ink: string): string {
  return LINES[ink] ?? "var(--soft)";
}
