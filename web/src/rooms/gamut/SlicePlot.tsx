import type { Cloud, Gamut } from "../../api/client";
import { fixed } from "../../shared/figures";
import { Plot, type Spot } from "../../shared/plots/Plot";
import type { Scale } from "../../shared/plots/scale";

const REACH = 120;
const TICKS = [-120, -80, -40, 0, 40, 80, 120];
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
  const near = (cloud?.lab ?? [])
    .flatMap((lab, index) =>
      Math.abs((lab[0] ?? 0) - level) < 2 ? [{ lab, rgb: cloud?.rgb[index] ?? 0 }] : [],
    )
    .slice(0, 1500);
  const rings = gamuts.map((gamut) => ({ gamut, ring: ringAt(gamut, level) }));
  return (
    <Plot
      className="slice"
      title={`Gamuts at L* ${level}`}
      note={cloud && "points: the colors within 2 of this lightness"}
      x={{ name: "a*", range: [-REACH, REACH], ticks: TICKS }}
      y={{ name: "b*", range: [-REACH, REACH], ticks: TICKS }}
      square
      margin={14}
      spots={rings.flatMap(({ gamut, ring }) => ring.map((lab) => spot(gamut.name, lab)))}
      table={() => ({
        head: ["gamut", "L*", "a*", "b*"],
        rows: rings.flatMap(({ gamut, ring }) => ring.map((lab) => [gamut.name, ...lab])),
      })}
    >
      {(area) => (
        <>
          <path
            d={`M${area.left} ${area.y(0)}H${area.right}M${area.x(0)} ${area.top}V${area.bottom}`}
            stroke="var(--rail)"
          />
          {near.map(({ lab, rgb }) => (
            <rect
              key={lab.join()}
              x={area.x(lab[1] ?? 0) - 2}
              y={area.y(lab[2] ?? 0) - 2}
              width="4"
              height="4"
              style={{ fill: hex(rgb) }}
            />
          ))}
          {rings.map(({ gamut, ring }, index) => {
            const named = ring[Math.round((ring.length * (index + 1)) / (rings.length + 2))];
            return (
              <g key={gamut.key}>
                <path
                  d={outline(ring, area.x, area.y)}
                  fill="none"
                  stroke="var(--ink)"
                  strokeWidth={index === 0 ? 2 : 1.3}
                  strokeDasharray={index === 0 ? undefined : `${3 + 3 * index} 3`}
                />
                {named && (
                  <text
                    className="name"
                    x={area.x(named[1] ?? 0) + 5}
                    y={area.y(named[2] ?? 0) - 4}
                    style={{ stroke: "var(--raise)", strokeWidth: 3, paintOrder: "stroke" }}
                  >
                    {gamut.name}
                  </text>
                )}
              </g>
            );
          })}
        </>
      )}
    </Plot>
  );
}

function spot(name: string, [, a = 0, b = 0]: number[]): Spot {
  const hue = (Math.atan2(b, a) * 180) / Math.PI;
  return {
    x: a,
    y: b,
    text: `${name}: a* ${fixed(a)}  b* ${fixed(b)}  C* ${fixed(Math.hypot(a, b))}  h ${fixed((hue + 360) % 360, 0)}°`,
  };
}

/** How many points of one lightness the first ring of a hull has; all others have as many. */
export function ringSize(points: readonly (readonly number[])[]): number {
  const first = points[0]?.[0];
  const end = points.findIndex(([lightness]) => Math.abs((lightness ?? 0) - (first ?? 0)) > 1e-6);
  return end < 0 ? points.length : end;
}

/** The ring of the hull that lies nearest to a lightness; none where the hull does not reach it. */
export function ringAt(gamut: Pick<Gamut, "points">, level: number): number[][] {
  const hues = ringSize(gamut.points);
  // The darkest and lightest point stand behind the rings.
  const rings = Math.floor((gamut.points.length - 2) / hues);
  let best = 0;
  for (let ring = 1; ring < rings; ring++) {
    const away = (index: number) => Math.abs((gamut.points[index * hues]?.[0] ?? 0) - level);
    if (away(ring) < away(best)) best = ring;
  }
  const points = gamut.points.slice(best * hues, (best + 1) * hues);
  return Math.abs((points[0]?.[0] ?? 0) - level) > 4 ? [] : points;
}

const outline = (ring: number[][], x: Scale, y: Scale) =>
  ring.length ? `M${ring.map(([, a = 0, b = 0]) => `${x(a).toFixed(1)} ${y(b).toFixed(1)}`).join("L")}Z` : "";
