import { useState } from "react";
import type { Artwork, Condition, Readout, Recipe } from "../../api/client";
import { usePalette } from "../../api/queries";
import { fixed, lab, percent } from "../../shared/figures";
import { drivenByRgb, inkName } from "../../shared/inks";
import { usePreference } from "../../shared/preferences";
import { Triple } from "./PinTable";
import type { Look } from "./useLook";
import { useSettled } from "./useSettled";

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe | undefined;
  look: Look;
  pins: Readout[];
}

/** Colors typed, pasted or taken from pins: which print, how far off the others are, the nearest that does. */
export function PaletteTable({ artwork, condition, recipe, look, pins }: Props) {
  const [text, setText] = usePreference("palette", "");
  const [copied, setCopied] = useState(false);
  const asked = useSettled(text, 300);
  const found = usePalette(artwork.id, condition.slug, recipe, asked, look.marks.tolerance);
  const rows = text.trim() ? (found.data ?? []) : [];
  const printed = () =>
    rows
      .map(({ verdict: v }) =>
        [
          v.name,
          lab(v.lab),
          v.prints ? "prints" : "does not print",
          `ΔE00 ${fixed(v.delta_e)}`,
          lab(v.printed_lab),
          Object.entries(v.inks_percent)
            .map(([ink, value]) => `${ink} ${fixed(value, 0)}`)
            .join(" "),
        ].join("\t"),
      )
      .join("\n");
  return (
    <div className="palette">
      <div>
        <textarea
          aria-label="Palette: one color a line"
          placeholder={"One color a line:\nLeaf #2f8f3a\nRust 52.1 38 44\nor CGATS text"}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <div className="answers">
          <button
            type="button"
            className="quiet-button"
            disabled={pins.length === 0}
            onClick={() =>
              setText(
                [
                  text.trim(),
                  ...pins.map((row, i) => `pin ${i + 1} ${row.want_lab.map((v) => v.toFixed(2)).join(" ")}`),
                ]
                  .filter(Boolean)
                  .join("\n"),
              )
            }
          >
            Add the pins
          </button>
          <button
            type="button"
            className="quiet-button"
            disabled={rows.length === 0}
            onClick={() => void navigator.clipboard.writeText(printed()).then(() => setCopied(true))}
          >
            {copied ? "Copied" : "Copy the table"}
          </button>
        </div>
      </div>
      {found.error && text.trim() ? (
        <p className="notice">{found.error.message}</p>
      ) : (
        <div className="pins" data-stale={found.isPlaceholderData}>
          <table>
            <thead>
              <tr>
                <th>Color</th>
                <th>L*a*b*</th>
                <th>Verdict</th>
                <th>ΔE00</th>
                <th>Nearest here</th>
                <th>
                  <span className="inks">
                    {condition.inks.map((ink) => (
                      <span key={ink}>
                        {inkName(ink)}
                        {!drivenByRgb(condition.inks) && " %"}
                      </span>
                    ))}
                  </span>
                </th>
              </tr>
            </thead>
            <tbody>
              {rows.map(({ verdict, swatch, printed_swatch }, index) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: names may repeat
                <tr key={index}>
                  <td>
                    <span className="swatch" style={{ background: swatch }} />
                    <span className="swatch last" style={{ background: printed_swatch }} />
                    {verdict.name}
                  </td>
                  <td>
                    <Triple values={verdict.lab} />
                  </td>
                  <td className={verdict.prints ? "" : "strong"}>
                    {verdict.prints ? "prints" : "out of gamut"}
                  </td>
                  <td>{fixed(verdict.delta_e)}</td>
                  <td>
                    <Triple values={verdict.printed_lab} />
                  </td>
                  <td
                    title={`sum ${percent(Object.values(verdict.inks_percent).reduce((a, b) => a + b, 0))}`}
                  >
                    <span className="inks">
                      {Object.entries(verdict.driving ?? verdict.inks_percent).map(([ink, value]) => (
                        <span key={ink}>{fixed(value, 0)}</span>
                      ))}
                    </span>
                  </td>
                </tr>
              ))}
              {rows.length === 0 && (
                <tr>
                  <td className="soft" colSpan={6}>
                    Type or paste colors at the left; each gets its verdict for {condition.name} with the
                    limits and the black in force.
                  </td>
                </tr>
              )}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}
