/** Lines in plots are drawn in the color that stands for the ink; any further ink is a gray dash. */
const LINES: Record<string, string> = { C: "#0093c9", M: "#c4147a", Y: "#b99b00", K: "var(--ink)" };

export function inkColor(ink: string): string {
  return LINES[ink] ?? "var(--soft)";
}
