import { Plot } from "./Plot";

/** Mean ΔE00 of the way to inks and back, by hue across and lightness up; black is 2 and more. */
export function RoundTripMap({ rows }: { rows: number[][] }) {
  const columns = rows[0]?.length ?? 24;
  const [wide, high] = [360 / columns, 100 / (rows.length || 10)];
  const cells = rows.flatMap((row, at) =>
    row.flatMap((mean, column) => (mean < 0 ? [] : { mean, hue: column * wide, lightness: at * high })),
  );
  return (
    <Plot
      title="Round trip by hue and lightness"
      note="mean ΔE00 of Lab → inks → Lab; black is 2 and more"
      x={{ name: "hue angle h", unit: "°", range: [0, 360], ticks: [0, 60, 120, 180, 240, 300, 360] }}
      y={{ name: "L*", range: [0, 100], ticks: [0, 20, 40, 60, 80, 100] }}
      height={210}
      spots={cells.map(({ mean, hue, lightness }) => ({
        x: hue + wide / 2,
        y: lightness + high / 2,
        text: `h ${hue}° to ${hue + wide}°, L* ${lightness} to ${lightness + high}: ΔE00 ${mean.toFixed(2)}`,
      }))}
      table={() => ({
        head: ["h from", "h to", "L* from", "L* to", "mean ΔE00"],
        rows: cells.map((each) => [
          each.hue,
          each.hue + wide,
          each.lightness,
          each.lightness + high,
          each.mean,
        ]),
      })}
    >
      {(area) =>
        cells.map(({ mean, hue, lightness }) => (
          <rect
            key={`${hue} ${lightness}`}
            x={area.x(hue) + 0.3}
            y={area.y(lightness + high) + 0.3}
            width={area.x(hue + wide) - area.x(hue) - 0.6}
            height={area.y(lightness) - area.y(lightness + high) - 0.6}
            fill="var(--ink)"
            fillOpacity={Math.min(mean / 2, 1)}
          />
        ))
      }
    </Plot>
  );
}
