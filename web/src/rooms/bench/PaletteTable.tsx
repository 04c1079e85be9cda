import "./PaletteTable.css";
import { type ClipboardEvent, type KeyboardEvent, useRef, useState } from "react";
import type { Artwork, Condition, PaletteRow, Readout, Recipe } from "../../api/client";
import { useColorLists, useSpotsOfList } from "../../api/colorQueries";
import { usePalette } from "../../api/queries";
import { fixed, lab, percent } from "../../shared/figures";
import { drivenByRgb, inkName } from "../../shared/inks";
import { usePreference } from "../../shared/preferences";
import { Triple } from "./PinTable";
import { isTable, linesOf, linesPasted } from "./paletteLines";
import { useSettled } from "./useSettled";
import type { ViewState } from "./useViewState";

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe | undefined;
  viewState: ViewState;
  pins: Readout[];
}

/** How long it is said that the table was copied. */
const COPIED_MS = 3000;
/** Longer lists belong into the Colors room. */
const MOST_OF_LIST = 500;

/** Colors typed, pasted or taken from pins and lists, a row each: which print, how far off the others are, the nearest that does. */
export function PaletteTable({ artwork, condition, recipe, viewState, pins }: Props) {
  const [text, setText] = usePreference("palette", "");
  const [copied, setCopied] = useState(false);
  const lists = (useColorLists().data ?? []).filter(
    (each) => each.channels[0] === "L*" && each.count <= MOST_OF_LIST,
  );
  const ofList = useSpotsOfList();
  const grid = useRef<HTMLTableSectionElement>(null);
  const asked = useSettled(text, 300);
  const found = usePalette(artwork.id, condition.slug, recipe, asked, viewState.marks.tolerance);
  const rows = text.trim() && !found.error ? (found.data ?? []) : [];
  const wrong = ofList.error ?? (text.trim() ? found.error : null);
  const whole = isTable(text);
  const lines = linesOf(text);
  const keep = (next: string[]) => setText(next.join("\n"));
  const changed = (at: number, line: string) => keep([...lines.slice(0, at), line, ...lines.slice(at + 1)]);
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

  function pasted(event: ClipboardEvent, at: number) {
    const next = linesPasted(lines, at, event.clipboardData.getData("text"));
    if (!next) return;
    event.preventDefault();
    keep(next);
  }
  function key(event: KeyboardEvent, at: number) {
    const to = { Enter: at + 1, ArrowDown: at + 1, ArrowUp: at - 1 }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    grid.current?.querySelectorAll("input")[to]?.focus();
  }
  /** Blank lines have no verdict. */
  const rowOf = (at: number) =>
    lines[at]?.trim() ? rows[lines.slice(0, at).filter((line) => line.trim()).length] : undefined;

  return (
    <div className="palette">
      <div className="answers">
        <button
          type="button"
          className="quiet-button"
          disabled={pins.length === 0 || whole}
          onClick={() =>
            keep([
              ...lines.filter((line) => line.trim()),
              ...pins.map((row, i) => `pin ${i + 1} ${row.want_lab.map((v) => v.toFixed(2)).join(" ")}`),
            ])
          }
        >
          Add the pins
        </button>
        {lists.length > 0 && (
          <select
            className="field"
            aria-label="Add the colors of a list"
            value=""
            disabled={whole || ofList.isPending}
            onChange={(event) =>
              ofList.mutate(Number(event.target.value), {
                onSuccess: (spots) =>
                  keep([
                    ...lines.filter((line) => line.trim()),
                    ...spots.map((each) => `${each.name} ${each.lightness} ${each.a} ${each.b}`),
                  ]),
              })
            }
          >
            <option value="" disabled>
              Add a list
            </option>
            {lists.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </select>
        )}
        <button
          type="button"
          className="quiet-button"
          disabled={rows.length === 0}
          onClick={() =>
            void navigator.clipboard.writeText(printed()).then(() => {
              setCopied(true);
              setTimeout(() => setCopied(false), COPIED_MS);
            })
          }
        >
          {copied ? "Copied" : "Copy the table"}
        </button>
        <button type="button" className="quiet-button" disabled={!text.trim()} onClick={() => setText("")}>
          Clear
        </button>
        <span className={wrong ? "strong" : "soft"} role="status">
          {wrong ? wrong.message : "Like Leaf #2f8f3a or Rust 52.1 38 44; lists and CGATS can be pasted."}
        </span>
      </div>
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
          <tbody ref={grid}>
            {whole
              ? rows.map((row, at) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: names may repeat
                  <tr key={at}>
                    <td>
                      <Swatches row={row} />
                      {row.verdict.name}
                    </td>
                    <Verdict row={row} />
                  </tr>
                ))
              : [...lines, ""].map((line, at) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: a line is where it stands
                  <tr key={at}>
                    <td>
                      <span className="typed">
                        <Swatches row={rowOf(at)} />
                        <input
                          className="field"
                          aria-label={`Color ${at + 1}`}
                          placeholder={at === lines.length ? "a further color" : ""}
                          value={line}
                          onChange={(event) => changed(at, event.target.value)}
                          onBlur={() => keep(lines.filter((each) => each.trim()))}
                          onPaste={(event) => pasted(event, at)}
                          onKeyDown={(event) => key(event, at)}
                        />
                      </span>
                    </td>
                    <Verdict row={rowOf(at)} />
                  </tr>
                ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}

function Swatches({ row }: { row: PaletteRow | undefined }) {
  return (
    <>
      <span className="swatch" style={{ background: row?.swatch ?? "transparent" }} />
      <span className="swatch last" style={{ background: row?.printed_swatch ?? "transparent" }} />
    </>
  );
}

function Verdict({ row }: { row: PaletteRow | undefined }) {
  if (!row) return <td colSpan={5} />;
  const { verdict } = row;
  const sum = Object.values(verdict.inks_percent).reduce((a, b) => a + b, 0);
  return (
    <>
      <td>
        <Triple values={verdict.lab} />
      </td>
      <td className={verdict.prints ? "" : "strong"}>{verdict.prints ? "prints" : "out of gamut"}</td>
      <td>{fixed(verdict.delta_e)}</td>
      <td>
        <Triple values={verdict.printed_lab} />
      </td>
      <td title={`sum ${percent(sum)}`}>
        <span className="inks">
          {Object.entries(verdict.driving ?? verdict.inks_percent).map(([ink, value]) => (
            <span key={ink}>{fixed(value, 0)}</span>
          ))}
        </span>
      </td>
    </>
  );
}
