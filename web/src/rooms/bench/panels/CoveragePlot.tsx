import type { InkFigures } from "../../../api/client";
import { percent } from "../../../shared/figures";
import { Plot } from "../../../shared/plots/Plot";

interface Props {
  figures: InkFigures | undefined;
  inks: number;
  limit: number | undefined;
}

/** How much ink lies on the artwork: share of it by total ink, written solid, wanted before limiting as a line. */
export function CoveragePlot({ figures, inks, limit }: Props) {
  const coverage = figures?.coverage;
  const bins = coverage?.histogram ?? [];
  const wanted = limit === undefined ? [] : (coverage?.wanted_histogram ?? []);
  const highest = Math.max(...bins, ...wanted, 1e-4) * 100;
  const wide = (inks * 100) / Math.max(bins.length, 1);
  const said = (share: number) => percent(share * 100, share < 0.01 ? 2 : 1);
  const spots = bins.map((share, bin) => ({
    x: (bin + 0.5) * wide,
    text: `${Math.round(bin * wide)} to ${Math.round((bin + 1) * wide)} %: ${said(share)} of the artwork${
      wanted[bin] !== undefined && wanted[bin] !== share ? `, ${said(wanted[bin] ?? 0)} before limiting` : ""
    }`,
  }));
  return (
    <Plot
      title="Coverage in this artwork"
      note={
        coverage &&
        (limit === undefined
          ? `largest ${percent(coverage.largest_percent, 1)}, no limit set here`
          : `limit ${percent(limit)}; line: before limiting, up to ${percent(coverage.wanted_largest_percent)}, ${percent(coverage.wanted_over_share * 100, 1)} of the artwork over`)
      }
      x={{ name: "total ink", unit: "%", range: [0, inks * 100] }}
      y={{
        name: "share of the artwork (root), %",
        range: [0, highest],
        root: true,
        ticks: rootTicks(highest),
      }}
      height={128}
      spots={spots}
      table={() => ({
        head: ["total ink from, %", "to, %", "share, %", "before limiting, %"],
        rows: bins.map((share, bin) => [
          bin * wide,
          (bin + 1) * wide,
          share * 100,
          (wanted[bin] ?? share) * 100,
        ]),
      })}
    >
      {(area) => {
        const outline = (shares: number[]) =>
          shares
            .map(
              (share, bin) =>
                `${area.x(bin * wide).toFixed(1)} ${area.y(share * 100).toFixed(1)}H${area.x((bin + 1) * wide).toFixed(1)}`,
            )
            .join("L");
        return (
          <>
            {bins.length > 0 && (
              <path
                d={`M${area.left} ${area.bottom}L${outline(bins)}L${area.right} ${area.bottom}Z`}
                fill="var(--rail)"
              />
            )}
            {wanted.length > 0 && <path d={`M${outline(wanted)}`} fill="none" stroke="var(--ink)" />}
            {limit !== undefined && (
              <path
                d={`M${area.x(limit)} ${area.top - 4}V${area.bottom}`}
                stroke="var(--ink)"
                strokeWidth="1.5"
                strokeDasharray="3 2"
              />
            )}
          </>
        );
      }}
    </Plot>
  );
}

/** Decades and their halves, as far as they stand apart on an axis by the root. */
function rootTicks(highest: number): number[] {
  const ticks = [0];
  for (const value of [0.1, 1, 5, 10, 20, 50, 100])
    if (value <= highest && Math.sqrt(value / highest) - Math.sqrt((ticks.at(-1) ?? 0) / highest) > 0.2)
      ticks.push(value);
  return ticks;
}
