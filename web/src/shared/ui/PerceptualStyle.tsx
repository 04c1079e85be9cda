import { Choice } from "./Choice";

export type Style = "steady" | "lively" | "gentle";

/** What sets each apart; the figures are those of the core's styles, and its tests hold them together. */
export const STYLES: [Style, string, string][] = [
  ["steady", "Steady", "Up to 65 % of the printable chroma stays as it is; only stronger colors move."],
  ["lively", "Lively", "Up to 80 % stays, and up to 10 % is added where the print reaches further."],
  [
    "gentle",
    "Gentle",
    "Only the first 35 % stays; all else moves a little, and strong colors stay furthest apart.",
  ],
];

interface Props {
  value: Style;
  onChange: (style: Style) => void;
}

/** The three ways of the perceptual table, with what the chosen one does. */
export function PerceptualStyle({ value, onChange }: Props) {
  return (
    <>
      <Choice
        label="Perceptual"
        value={value}
        options={STYLES.map(([key, name]): [Style, string] => [key, name])}
        onChange={onChange}
      />
      <p className="soft">{STYLES.find(([key]) => key === value)?.[2]}</p>
    </>
  );
}
