/** Any dash before the digits is a minus: tables copied from a PDF or an office program have their own. */
export const number = (text: string) =>
  Number(
    text
      .trim()
      .replace(/^[\u2010-\u2015\u2212\ufe63\uff0d]/, "-")
      .replace(",", "."),
  );

export const isNumber = (text: string) => text.trim() !== "" && Number.isFinite(number(text));

/** A number with or without its unit: '220 %', '2,5', '300 ppi'; NaN for anything else. */
function withUnit(text: string): number {
  const bare = text.replace(/[\s%°a-zA-Z*]+$/, "");
  return isNumber(bare) ? number(bare) : Number.NaN;
}

export interface Figures {
  min: number;
  max: number;
  /** Whether no figure is an answer too. */
  optional?: boolean;
  /** Whether only whole ones are. */
  whole?: boolean;
}

/** The figure that was typed, null for none; or a word on why it is none that can be kept. */
export function figureOf(typed: string, { min, max, optional, whole }: Figures): number | null | string {
  if (optional && typed.trim() === "") return null;
  const wanted = withUnit(typed);
  if (Number.isNaN(wanted)) return "This is no number.";
  if (whole && !Number.isInteger(wanted)) return "A whole number is wanted.";
  return wanted < min || wanted > max ? `${min} to ${max} here.` : wanted;
}
