import type { Cloud, Gamut } from "../../api/client";

const SIZE = 640;
const REACH = 120;
const place = (value: number) => ((value + REACH) / (2 * REACH)) * SIZE;
const hex = (code: number) => `#${code.toString(16).padStart(6, "0")}`;

/** A cut through the gamuts at one lightness, a* across and b* up: outlines, and the artwork's colors near it. */
export function SlicePlot({
  gamuts,
  cloud,
  level,
}: {
  gamuts: Gamut[];
  cloud: Cloud | undefined;
  level: number;
}) {
  const near = cloud?.lab.flatMap((lab, index) =>
    Math.abs((lab[0] ?? 0) - level) < 2 ? [{ lab, rgb: cloud.rgb[index] ?? 0 }] : [],
  );
  return (
    <svg className="slice" viewBox={`0 0 ${SIZE} ${SIZE}`} role="img" aria-label={`Gamuts at L* ${level}`}>
      <path d={`M0 ${SIZE / 2}H${SIZE}M${SIZE / 2} 0V${SIZE}`} stroke="var(--line)" />
      <text x={SIZE - 22} y={SIZE / 2 - 6} fill="var(--ink)" fontSize="13">
        a*
      </text>
      <text x={SIZE / 2 + 6} y={14} fill="var(--ink)" fontSize="13">
        b*
      </text>
      {near?.slice(0, 1500).map(({ lab, rgb }) => (
        <rect
          key={lab.join()}
          x={place(lab[1] ?? 0) - 2}
          y={SIZE - place(lab[2] ?? 0) - 2}
          width="4"
          height="4"
          fill={hex(rgb)}
        />
      ))}
      {gamuts.map((gamut, index) => (
        <path
          key={gamut.key}
          d={outline(gamut, level)}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={index === 0 ? 2 : 1.3}
          strokeDasharray={index === 0 ? undefined : `${3 + 3 * index} 3`}
        />
      ))}
    </svg>
  );
}

/** How many points of one lightness the first ring of a hull has; all others have as many. */
export function ringSize(points: readonly (readonly number[])[]): number {
  const first = points[0]?.[0];
  const end = points.findIndex(([lightness]) => Math.abs((lightness ?? 0) - (first ?? 0)) > 1e-6);
  return end < 0 ? points.length : end;
}

/** The ring of the hull that lies nearest to a lightness. */
export function outline(gamut: Pick<Gamut, "points">, level: number): string {
  const hues = ringSize(gamut.points);
  // The darkest and lightest point stand behind the rings.
  const rings = Math.floor((gamut.points.length - 2) / hues);
  let best = 0;
  for (let ring = 1; ring < rings; ring++) {
    const away = (index: number) => Math.abs((gamut.points[index * hues]?.[0] ?? 0) - level);
    if (away(ring) < away(best)) best = ring;
  }
  const points = gamut.points.slice(best * hues, (best + 1) * hues);
  if (Math.abs((points[0]?.[0] ?? 0) - level) > 4) return "";
  return `M${points.map(([, a = 0, b = 0]) => `${place(a).toFixed(1)} ${(SIZE - place(b)).toFixed(1)}`).join("L")}Z`;
}
