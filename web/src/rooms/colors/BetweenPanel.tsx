import "./BetweenPanel.css";
import type { TravelAsked, Travelled } from "../../api/colorQueries";
import { fixed, percent } from "../../shared/figures";
import { Plot } from "../../shared/plots/Plot";

const LIGHTS = ["D50", "D55", "D65", "A", "F2", "F11"] as const;

interface Props {
  asked: TravelAsked;
  travelled: Travelled;
  onChange: (part: Partial<TravelAsked>) => void;
}

/** ΔE00 between two columns over all colors under a light: how it is spread, and its figures. */
export function BetweenPanel({ asked, travelled, onChange }: Props) {
  const { between, columns } = travelled;
  const choice = (which: "first" | "second", label: string) => (
    <select
      className="field"
      aria-label={label}
      value={Math.min(asked[which], columns.length - 1)}
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
  return (
    <section className="between" aria-label="Difference between two columns">
      <div className="spread">
        <div className="columns">
          ΔE00 from {choice("first", "From column")} to {choice("second", "To column")} under{" "}
          <select
            className="field"
            aria-label="Under the light"
            title="Under another light than D50: how far colors that match under D50 fall apart there. Needs spectra."
            value={asked.light}
            onChange={(event) => onChange({ light: event.target.value as TravelAsked["light"] })}
          >
            {LIGHTS.map((light) => (
              <option key={light}>{light}</option>
            ))}
          </select>
        </div>
        {between ? (
          <Plot
            title="Spread of ΔE00"
            label={`Spread of ΔE00: mean ${fixed(between.mean, 2)}, 95 % below ${fixed(between.p95, 2)}, largest ${fixed(between.largest, 2)}`}
            note={`dashed: 95 % of the colors lie below ${fixed(between.p95, 2)}`}
            x={{ name: "ΔE00", range: [0, full] }}
            y={{ name: "share of the colors, %", range: [0, top * 100] }}
            height={132}
            spots={bins.map((share, bin) => ({
              x: (bin + 0.5) * between.bin,
              text: `${fixed(bin * between.bin, 2)} to ${fixed((bin + 1) * between.bin, 2)}: ${percent(share * 100, 1)} of the colors`,
            }))}
            table={() => ({
              head: ["ΔE00 from", "to", "share, %"],
              rows: bins.map((share, bin) => [bin * between.bin, (bin + 1) * between.bin, share * 100]),
            })}
          >
            {(area) => (
              <>
                {bins.map((share, bin) => (
                  <rect
                    // biome-ignore lint/suspicious/noArrayIndexKey: a bar is its place
                    key={bin}
                    x={area.x(bin * between.bin) + 1}
                    y={area.y(share * 100)}
                    width={Math.max(area.x((bin + 1) * between.bin) - area.x(bin * between.bin) - 2, 1)}
                    height={area.bottom - area.y(share * 100)}
                    fill={bin * between.bin >= between.p95 ? "var(--ink)" : "var(--rail)"}
                  />
                ))}
                <path
                  d={`M${area.x(between.p95)} ${area.top}V${area.bottom}`}
                  stroke="var(--ink)"
                  strokeDasharray="3 2"
                />
              </>
            )}
          </Plot>
        ) : (
          <p className="soft" role="status">
            {travelled.unknown}
          </p>
        )}
        {between && travelled.unknown && (
          <p className="soft" role="status">
            {travelled.unknown}
          </p>
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
