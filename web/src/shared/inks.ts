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
  return LINES[inkName(ink)] ?? "var(--soft)";
}

/** How an ink is called in heads and plots; the channels of a printer driven by RGB are R, G, B. */
export const inkName = (ink: string) => ink.replace("-", "");

export const inkNames = (inks: string[]) => inks.map(inkName).join(" ");

/** The channels of a printer driven by RGB: each takes light of its color away, so that 0 is the bare substrate. */
export const RGB_CHANNELS = ["-R", "-G", "-B"];

/** Whether its inks are the printer's own affair, so that there is nothing to set for them. */
export const drivenByRgb = (inks: string[]) => inks[0] === RGB_CHANNELS[0];
