import type { InkFigures } from "../../../api/client";
import { percent } from "../../../shared/figures";

const WIDTH = 266;
const HEIGHT = 50;

interface Props {
  figures: InkFigures | undefined;
  inks: number;
  limit: number | undefined;
}

/** How much ink lies on the artwork: share of it by total ink, written solid, wanted before limiting as a line. */
export function CoveragePlot({ figures, inks, limit }: Props) {
  const coverage = figures?.coverage;
  const bins = coverage?.histogram ?? [];
  const wanted = coverage?.wanted_histogram ?? [];
  const highest = Math.max(...bins, ...wanted, 1e-6);
  // The square root keeps small areas of high coverage visible: they are the ones that matter.
  const height = (share: number) => HEIGHT - Math.sqrt(share / highest) * HEIGHT;
  const outline = (shares: number[]) =>
    shares
      .map((share, index) => `${((index / shares.length) * WIDTH).toFixed(1)} ${height(share).toFixed(1)}`)
      .join("L");
  return (
    <div className="plot">
      <div className="caption">
        <span>Coverage in this artwork</span>
        <span>{limit === undefined ? "no limit set here" : `limit ${percent(limit)}`}</span>
      </div>
      <svg viewBox={`0 -2 ${WIDTH} ${HEIGHT + 4}`} role="img" aria-label="Share of the artwork by total ink">
        {bins.length > 0 && (
          <path d={`M0 ${HEIGHT}L${outline(bins)}L${WIDTH} ${HEIGHT}Z`} fill="var(--rail)" />
        )}
        {limit !== undefined && wanted.length > 0 && (
          <path d={`M${outline(wanted)}`} fill="none" stroke="var(--ink)" strokeWidth="1" />
        )}
        <path d={`M0 ${HEIGHT}H${WIDTH}`} stroke="var(--ink)" />
        {limit !== undefined && (
          <path
            d={`M${(limit / (inks * 100)) * WIDTH} -2V${HEIGHT}`}
            stroke="var(--ink)"
            strokeWidth="1.5"
            strokeDasharray="3 2"
          />
        )}
      </svg>
      <div className="caption">
        <span>0</span>
        <span>
          {coverage &&
            (limit === undefined
              ? `largest ${percent(coverage.largest_percent, 1)}`
              : `before limiting up to ${percent(coverage.wanted_largest_percent)}, ${percent(coverage.wanted_over_share * 100, 1)} over`)}
        </span>
        <span>{percent(inks * 100)}</span>
      </div>
    </div>
  );
}
