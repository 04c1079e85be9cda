import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { CurvePoints } from "../../../api/client";
import { fixed } from "../../../shared/figures";

const WIDTH = 266;
const HEIGHT = 150;
const NEAR = 9;
const LEAST_GAP = 0.01;

interface Props {
  label: string;
  points: CurvePoints;
  /** Drawn behind, 0…1 each, the highest fills the height. */
  histogram?: number[];
  color?: string;
  /** What x and y count in: 100 for percent, 255 for codes. */
  scale?: number;
  axes?: [string, string];
  onMove: (points: CurvePoints) => void;
  onRest: (points: CurvePoints) => void;
}

const held = (value: number, low = 0, high = 1) => Math.min(Math.max(value, low), high);

/**
 * A tone curve on its histogram. Press on the curve for a new point, drag it, drag it off or press Delete to take
 * it away; arrow keys move the chosen point.
 */
export function CurveEditor(props: Props) {
  const { label, points, histogram, color = "var(--ink)", scale = 100, axes, onMove, onRest } = props;
  const svg = useRef<SVGSVGElement>(null);
  const [chosen, setChosen] = useState<number>();
  const dragging = useRef<number>(undefined);
  const latest = useRef(points);
  latest.current = points;

  const place = (event: PointerEvent): [number, number] => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    return [(event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height];
  };
  const give = (next: CurvePoints) => {
    latest.current = next;
    onMove(next);
  };

  function moved(index: number, [x, y]: [number, number]): CurvePoints {
    const now = latest.current;
    const low = index === 0 ? 0 : (now[index - 1]?.[0] ?? 0) + LEAST_GAP;
    const high = index === now.length - 1 ? 1 : (now[index + 1]?.[0] ?? 1) - LEAST_GAP;
    return now.map((point, each) => (each === index ? [held(x, low, high), held(y)] : point));
  }

  function down(event: PointerEvent<SVGSVGElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    const [x, y] = place(event);
    const away = points.map(([px, py]) => Math.hypot((px - x) * WIDTH, (py - y) * HEIGHT));
    const nearest = away.indexOf(Math.min(...away));
    if ((away[nearest] ?? 99) < NEAR) {
      dragging.current = nearest;
      setChosen(nearest);
      return;
    }
    if (x < LEAST_GAP || x > 1 - LEAST_GAP || points.length >= 32) return;
    const index = points.findIndex(([px]) => px > x);
    if (points.some(([px]) => Math.abs(px - x) < LEAST_GAP)) return;
    const where = index < 0 ? points.length : index;
    give([...points.slice(0, where), [x, held(y)], ...points.slice(where)]);
    dragging.current = where;
    setChosen(where);
  }
  function move(event: PointerEvent<SVGSVGElement>) {
    const index = dragging.current;
    if (index === undefined) return;
    const [x, y] = place(event);
    const inner = index > 0 && index < latest.current.length - 1;
    if (inner && (y < -0.2 || y > 1.2)) {
      dragging.current = undefined;
      setChosen(undefined);
      const left = latest.current.filter((_, each) => each !== index);
      give(left);
      onRest(left);
      return;
    }
    give(moved(index, [x, y]));
  }
  function up() {
    if (dragging.current === undefined) return;
    dragging.current = undefined;
    onRest(latest.current);
  }
  function key(event: KeyboardEvent) {
    const point = chosen === undefined ? undefined : points[chosen];
    if (chosen === undefined || !point) return;
    const inner = chosen > 0 && chosen < points.length - 1;
    if ((event.key === "Delete" || event.key === "Backspace") && inner) {
      event.preventDefault();
      const left = points.filter((_, each) => each !== chosen);
      setChosen(undefined);
      give(left);
      onRest(left);
      return;
    }
    const by = { ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, 0.01], ArrowDown: [0, -0.01] }[
      event.key
    ];
    if (!by) return;
    event.preventDefault();
    const next = moved(chosen, [point[0] + (by[0] ?? 0), point[1] + (by[1] ?? 0)]);
    give(next);
    onRest(next);
  }

  const highest = Math.max(...(histogram ?? [0]), 1e-6);
  const bars = histogram
    ?.map((share, index) => {
      const x = (index / histogram.length) * WIDTH;
      return `${x.toFixed(1)} ${(HEIGHT - Math.sqrt(share / highest) * HEIGHT * 0.9).toFixed(1)}`;
    })
    .join("L");
  const at = chosen === undefined ? undefined : points[chosen];
  return (
    <div className="plot">
      <div className="caption">
        <span>{axes ? `${axes[0]} → ${axes[1]}` : label}</span>
        <span>
          {at
            ? `${fixed(at[0] * scale, 0)} → ${fixed(at[1] * scale, 0)}`
            : `${points.length} points, press to add`}
        </span>
      </div>
      <svg
        ref={svg}
        className="curve"
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the curve takes keys for its chosen point
        tabIndex={0}
        role="application"
        aria-label={`Curve of ${label}: arrow keys move the chosen point, Delete takes it away`}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onKeyDown={key}
      >
        {bars && <path d={`M0 ${HEIGHT}L${bars}L${WIDTH} ${HEIGHT}Z`} fill="var(--rail)" opacity="0.55" />}
        {[0.25, 0.5, 0.75].map((level) => (
          <path
            key={level}
            d={`M0 ${HEIGHT * level}H${WIDTH}M${WIDTH * level} 0V${HEIGHT}`}
            stroke="var(--line)"
            strokeWidth="0.5"
          />
        ))}
        <path d={`M0 ${HEIGHT}L${WIDTH} 0`} stroke="var(--line)" strokeWidth="0.8" strokeDasharray="3 3" />
        <path d={smooth(points)} fill="none" stroke={color} strokeWidth="2" />
        {points.map(([x, y], index) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: points have no other name
            key={index}
            x={x * WIDTH - 4}
            y={(1 - y) * HEIGHT - 4}
            width="8"
            height="8"
            fill={index === chosen ? "var(--ink)" : "var(--raise)"}
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
        ))}
      </svg>
    </div>
  );
}

/** The curve as drawn: monotone cubic through the points, as the core computes it (Fritsch and Carlson 1980). */
function smooth(points: CurvePoints): string {
  const n = points.length;
  const x = (i: number) => points[i]?.[0] ?? 0;
  const y = (i: number) => points[i]?.[1] ?? 0;
  const h = Array.from({ length: n - 1 }, (_, i) => x(i + 1) - x(i));
  const d = Array.from({ length: n - 1 }, (_, i) => (y(i + 1) - y(i)) / (h[i] ?? 1));
  const slope = (i: number) => {
    const left = d[i - 1];
    const right = d[i];
    if (left === undefined || right === undefined) return n === 2 ? (d[0] ?? 0) : end(i);
    if (left * right <= 0) return 0;
    const w1 = 2 * (h[i] ?? 1) + (h[i - 1] ?? 1);
    const w2 = (h[i] ?? 1) + 2 * (h[i - 1] ?? 1);
    return (w1 + w2) / (w1 / left + w2 / right);
  };
  const end = (i: number) => {
    const [h0, h1, d0, d1] = i === 0 ? [h[0], h[1], d[0], d[1]] : [h[n - 2], h[n - 3], d[n - 2], d[n - 3]];
    if (h0 === undefined || h1 === undefined || d0 === undefined || d1 === undefined) return d0 ?? 0;
    const m = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if (Math.sign(m) !== Math.sign(d0)) return 0;
    return Math.sign(d0) !== Math.sign(d1) && Math.abs(m) > 3 * Math.abs(d0) ? 3 * d0 : m;
  };
  const out = (px: number, py: number) => `${(px * WIDTH).toFixed(2)} ${((1 - py) * HEIGHT).toFixed(2)}`;
  let path = `M${out(0, y(0))}L${out(x(0), y(0))}`;
  for (let i = 0; i < n - 1; i++) {
    const third = (h[i] ?? 0) / 3;
    path += `C${out(x(i) + third, y(i) + slope(i) * third)} ${out(x(i + 1) - third, y(i + 1) - slope(i + 1) * third)} ${out(x(i + 1), y(i + 1))}`;
  }
  return `${path}L${out(1, y(n - 1))}`;
}
