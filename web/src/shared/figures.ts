/** Figures as the screen writes them: tabular, true minus sign, one decimal where one decimal means something. */

const minus = (text: string) => text.replace("-", "−");

/** Value with fixed decimals; what rounds to zero has no sign. */
export function fixed(value: number, digits = 1): string {
  const text = value.toFixed(digits);
  return minus(Number(text) === 0 ? Math.abs(Number(text)).toFixed(digits) : text);
}

export function percent(value: number, digits = 0): string {
  return `${fixed(value, digits)} %`;
}

export function lab(values: readonly number[]): string {
  return values.map((value) => fixed(value)).join("  ");
}

/** A count of things, its thousands apart: 12,400. */
export function whole(count: number): string {
  return count.toLocaleString("en");
}

/** So many of something: 1 page, 12,400 pages. */
export function counted(count: number, one: string, several = `${one}s`): string {
  return `${whole(count)} ${count === 1 ? one : several}`;
}

export function bytes(count: number): string {
  if (count < 1e6) return `${fixed(count / 1e3, 0)} KB`;
  return count < 1e9 ? `${fixed(count / 1e6)} MB` : `${fixed(count / 1e9, 2)} GB`;
}

export function megapixels(artwork: { width: number; height: number }): string {
  const count = (artwork.width * artwork.height) / 1e6;
  return `${fixed(count, count < 0.1 ? 3 : count < 10 ? 1 : 0)} MP`;
}

const MOMENT = new Intl.DateTimeFormat("sv-SE", { dateStyle: "short", timeStyle: "short" });

/** A day and a time, to the minute. */
export function moment(iso: string): string {
  return MOMENT.format(new Date(iso));
}

/** How long something takes, in the unit that tells it best. */
export function lasting(seconds: number): string {
  if (seconds < 1) return "under a second";
  if (seconds < 90) return `${Math.round(seconds)} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${fixed(seconds / 3600)} h`;
}
