import { useState } from "react";
import type { Travelled, Wish } from "../../api/colorQueries";
import { fixed, percent } from "../../shared/figures";

const [WIDTH, HEIGHT] = [520, 84];

interface Props {
  wish: Wish;
  travelled: Travelled;
  onChange: (part: Partial<Wish>) => void;
}

/** ΔE00 between two columns over all colors: how it is spread, and its figures. */
export function BetweenPanel({ wish, travelled, onChange }: Props) {
  const { between, columns } = travelled;
  const [pointed, setPointed] = useState<number>();
  const choice = (which: "first" | "second", label: string) => (
    <select
      className="field"
      aria-label={label}
      value={Math.min(wish[which], columns.length - 1)}
      onChange={(event) => onChange({ [which]: Number(event.target.value) })}
    >
      {columns.map((column, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
        <option key={at} value={at}>
          {at + 1} {column.name}
        </option>
      ))}
    </select>
  );
  const bins = between?.histogram ?? [];
  const top = Math.max(...bins, 1e-6);
  const full = between ? between.bin * bins.length : 1;
  const at = pointed === undefined ? undefined : bins[pointed];
  const x = (value: number) => (value / full) * WIDTH;
  const step = [0.5, 1, 2, 5, 10, 20].find((each) => full / each <= 8) ?? 50;
  const ticks = Array.from({ length: Math.floor((full * 0.97) / step) + 1 }, (_, tick) => tick * step);
  return (
    <section className="between" aria-label="Difference between two columns">
      <div className="plot">
        <div className="caption">
          <span>
            ΔE00 from {choice("first", "From column")} to {choice("second", "To column")}
          </span>
          <span role="status">
            {between && at !== undefined && pointed !== undefined
              ? `${fixed(pointed * between.bin, 2)} to ${fixed((pointed + 1) * between.bin, 2)}: ${percent(at * 100, 1)} of the colors`
              : "share of the colors"}
          </span>
        </div>
        {between ? (
          <svg
            viewBox={`-4 -4 ${WIDTH + 34} ${HEIGHT + 24}`}
            role="img"
            aria-label={`Spread of ΔE00: mean ${fixed(between.mean, 2)}, 95 % below ${fixed(between.p95, 2)}, largest ${fixed(between.largest, 2)}`}
            // biome-ignore lint/a11y/noNoninteractiveTabindex: arrow keys read the bars out
            tabIndex={0}
            onKeyDown={(event) => {
              const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
              if (!by) return;
              event.preventDefault();
              setPointed(
                Math.min(Math.max((pointed ?? (by > 0 ? -1 : bins.length)) + by, 0), bins.length - 1),
              );
            }}
            onPointerLeave={() => setPointed(undefined)}
          >
            {bins.map((share, bin) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a bar is its place
              <g key={bin} onPointerEnter={() => setPointed(bin)}>
                <rect
                  x={x(bin * between.bin)}
                  y={0}
                  width={WIDTH / bins.length}
                  height={HEIGHT}
                  fill="transparent"
                />
                <rect
                  x={x(bin * between.bin) + 1}
                  y={HEIGHT - (share / top) * HEIGHT}
                  width={WIDTH / bins.length - 2}
                  height={(share / top) * HEIGHT}
                  fill={bin === pointed || bin * between.bin >= between.p95 ? "var(--ink)" : "var(--rail)"}
                />
              </g>
            ))}
            <path d={`M0 ${HEIGHT}H${WIDTH}`} stroke="var(--ink)" />
            <path d={`M${x(between.p95)} -2V${HEIGHT}`} stroke="var(--ink)" strokeDasharray="3 2" />
            <text
              x={x(between.p95) + (between.p95 > full / 2 ? -5 : 5)}
              y={8}
              fontSize="11"
              textAnchor={between.p95 > full / 2 ? "end" : "start"}
              fill="var(--ink)"
              stroke="var(--raise)"
              strokeWidth="3"
              paintOrder="stroke"
            >
              95 % below {fixed(between.p95, 2)}
            </text>
            {ticks.map((tick) => (
              <g key={tick}>
                <path d={`M${x(tick)} ${HEIGHT}v4`} stroke="var(--ink)" />
                <text x={x(tick)} y={HEIGHT + 16} fontSize="11" textAnchor="middle" fill="var(--ink)">
                  {tick}
                </text>
              </g>
            ))}
            <text x={WIDTH + 28} y={HEIGHT + 16} fontSize="11" textAnchor="end" fill="var(--ink)">
              ΔE00
            </text>
          </svg>
        ) : (
          <p className="soft">A column of numbers without a profile means no color: nothing to compare.</p>
        )}
      </div>
      {between && (
        <div className="totals">
          <div>
            <b>{fixed(between.mean, 2)}</b>ΔE00 mean
          </div>
          <div>
            <b>{fixed(between.p95, 2)}</b>95 % below
          </div>
          <div>
            <b>{fixed(between.p99, 2)}</b>99 % below
          </div>
          <div>
            <b>{fixed(between.largest, 2)}</b>largest: {travelled.worst_name}
          </div>
          <div>
            <b>{percent(between.over * 100, 1)}</b>above 2
          </div>
          <div>
            <b>{fixed(between.mean_76, 2)}</b>ΔE*76 mean
          </div>
          <div>
            <b>
              {fixed(between.mean_lightness)} · {fixed(between.mean_chroma)} · {fixed(between.mean_hue)}
            </b>
            |ΔL*| · |ΔC*| · |ΔH*| mean
          </div>
        </div>
      )}
    </section>
  );
}
