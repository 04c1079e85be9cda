/** Inks that have a color of their own in plots, see plots.css: told apart and readable in either room. */
const LINES = new Set(["C", "M", "Y", "O", "B", "V", "G", "R", "c", "m"]);

export function inkColor(ink: string): string {
  const name = inkName(ink);
  if (name === "K") return "var(--ink)";
  return LINES.has(name) ? `var(--plot-${name})` : "var(--soft)";
}

/** How an ink is called in heads and plots; the channels of a printer driven by RGB are R, G, B. */
export const inkName = (ink: string) => ink.replace("-", "");

export const inkNames = (inks: string[]) => inks.map(inkName).join(" ");

/** The channels of a printer driven by RGB: each takes light of its color away, so that 0 is the bare substrate. */
export const RGB_CHANNELS = ["-R", "-G", "-B"];

/** Whether its inks are the printer's own affair, so that there is nothing to set for them. */
export const drivenByRgb = (inks: string[]) => inks[0] === RGB_CHANNELS[0];
