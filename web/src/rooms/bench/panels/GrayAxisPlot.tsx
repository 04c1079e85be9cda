import { useState } from "react";
import type { InkFigures } from "../../../api/client";
import { fixed } from "../../../shared/figures";
import { inkColor } from "../../../shared/inks";

const WIDTH = 266;
const HEIGHT = 112;

/** Inks along the grays, light to dark; pointing at it reads the values. */
export function GrayAxisPlot({ figures }: { figures: InkFigures | undefined }) {
  const [at, setAt] = useState<number>();
  const inks = Object.entries(figures?.gray_axis ?? {});
  const steps = inks[0]?.[1].length ?? 1;
  const x = (index: number) => (index / Math.max(steps - 1, 1)) * WIDTH;
  const y = (value: number) => HEIGHT - value * HEIGHT;
  const pointed = at === undefined ? undefined : Math.round(at * (steps - 1));
  return (
    <div className="plot">
      <div className="caption">
        <span>Gray axis, light to dark</span>
        <span>
          {pointed === undefined
            ? "ink %"
            : inks.map(([ink, values]) => `${ink} ${fixed((values[pointed] ?? 0) * 100, 0)}`).join("  ")}
        </span>
      </div>
      <svg
        viewBox={`0 -4 ${WIDTH} ${HEIGHT + 8}`}
        role="img"
        aria-label="Inks along the gray axis"
        onPointerMove={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          setAt(Math.min(Math.max((event.clientX - box.left) / box.width, 0), 1));
        }}
        onPointerLeave={() => setAt(undefined)}
      >
        {[0.25, 0.5, 0.75, 1].map((level) => (
          <path key={level} d={`M0 ${y(level)}H${WIDTH}`} stroke="var(--line)" strokeWidth="0.6" />
        ))}
        <path d={`M0 ${HEIGHT}H${WIDTH}`} stroke="var(--ink)" />
        {inks.map(([ink, values]) => (
          <path
            key={ink}
            d={`M${values.map((value, index) => `${x(index).toFixed(1)} ${y(value).toFixed(1)}`).join("L")}`}
            fill="none"
            stroke={inkColor(ink)}
            strokeWidth="2"
          />
        ))}
        {inks.map(([ink, values], index) => (
          <text
            key={ink}
            x={WIDTH + 2}
            y={labelPlace(
              inks.map(([, each]) => y(each[steps - 1] ?? 0)),
              index,
              y(values[steps - 1] ?? 0),
            )}
            fontSize="9"
            fontWeight="700"
            fill={inkColor(ink)}
          >
            {ink}
          </text>
        ))}
        {pointed !== undefined && (
          <path d={`M${x(pointed)} 0V${HEIGHT}`} stroke="var(--ink)" strokeDasharray="2 2" />
        )}
      </svg>
    </div>
  );
}

/** Letters at the ends of the curves, pushed apart where the curves meet. */
function labelPlace(ends: number[], index: number, end: number): number {
  const order = ends.map((value, each) => ({ value, each })).sort((a, b) => a.value - b.value);
  let last = Number.NEGATIVE_INFINITY;
  for (const { value, each } of order) {
    last = Math.max(value, last + 9);
    if (each === index) return last + 3;
  }
  return end + 3;
}
