import { type RefObject, useState } from "react";
import { copy, csvText, type PlotTable, svgText } from "./copied";

interface Props {
  title: string;
  svg: RefObject<SVGSVGElement | null>;
  table: () => PlotTable;
}

/** What a plot shows, taken along: its values as CSV, its drawing as SVG. */
export function CopyButtons({ title, svg, table }: Props) {
  const [done, setDone] = useState("");
  async function give(text: string, ending: string, type: string) {
    setDone(`${ending.toUpperCase()} ${await copy(text, `${title}.${ending}`, type)}`);
    setTimeout(() => setDone(""), 3000);
  }
  return (
    <span>
      <span role="status">{done}</span>
      <button
        type="button"
        aria-label={`CSV: copy the values of ${title}`}
        onClick={() => give(csvText(table()), "csv", "text/csv")}
      >
        CSV
      </button>
      <button
        type="button"
        aria-label={`SVG: copy the drawing of ${title}`}
        onClick={() => svg.current && give(svgText(svg.current), "svg", "image/svg+xml")}
      >
        SVG
      </button>
    </span>
  );
}
