/** Mean ΔE00 of the way to inks and back, by hue across and lightness up; black is 2 and more. */
export function RoundTripMap({ rows }: { rows: number[][] }) {
  const columns = rows[0]?.length ?? 24;
  return (
    <div className="plot">
      <div className="caption">
        <span>Round trip by hue and lightness</span>
        <span>L*</span>
      </div>
      <svg viewBox="0 -4 382 178" role="img" aria-label="Round trip by hue and lightness">
        {rows.flatMap((row, at) =>
          row.map((mean, column) =>
            mean < 0 ? null : (
              <rect
                // biome-ignore lint/suspicious/noArrayIndexKey: cells stand where their index says
                key={`${at} ${column}`}
                x={(column * 360) / columns}
                y={153 - at * 17}
                width={360 / columns - 0.6}
                height="16.4"
                fill="var(--ink)"
                fillOpacity={Math.min(mean / 2, 1)}
              >
                <title>{`h ${column * 15}° to ${column * 15 + 15}°, L* ${at * 10} to ${at * 10 + 10}: ΔE00 ${mean.toFixed(2)}`}</title>
              </rect>
            ),
          ),
        )}
        <path d="M0 170H360" stroke="var(--ink)" />
      </svg>
      <div className="caption">
        <span>hue 0° to 360°; black is ΔE00 2 and more</span>
      </div>
    </div>
  );
}
