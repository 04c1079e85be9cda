import "./CurveEditor.css";
import { type KeyboardEvent, type PointerEvent, useId, useRef, useState } from "react";
import type { CurvePoints } from "../../../api/client";
import { fixed } from "../../../shared/figures";
import { Axes, areaOf } from "../../../shared/plots/Axes";
import { CopyButtons } from "../../../shared/plots/CopyButtons";
import type { Axis } from "../../../shared/plots/scale";
import { useWidth } from "../../../shared/plots/useWidth";
import { monotone } from "./monotone";

const HEIGHT = 196;
const NEAR_PX = 9;
const LEAST_GAP = 0.01;
const MOST_POINTS = 32;

interface Props {
  label: string;
  points: CurvePoints;
  /** Drawn behind, 0…1 each, the highest fills the height. */
  histogram?: number[];
  color?: string;
  /** What x and y count in: 100 for percent, 255 for codes. */
  scale?: number;
  axes: [string, string];
  onMove: (points: CurvePoints) => void;
  onRest: (points: CurvePoints) => void;
}

const held = (value: number, low = 0, high = 1) => Math.min(Math.max(value, low), high);
const without = (points: CurvePoints, index: number) => points.filter((_, each) => each !== index);

/**
 * A tone curve on its histogram. Pressed for a new point, which is dragged, and dragged off to remove it. By keys:
 * page up and down choose a point, arrows move it (with shift by ten), insert adds one, delete removes it.
 */
export function CurveEditor(props: Props) {
  const { label, points, histogram, color = "var(--ink)", scale = 100, axes, onMove, onRest } = props;
  const svg = useRef<SVGSVGElement>(null);
  const reading = useId();
  const width = useWidth(svg, 266);
  const [chosen, setChosen] = useState<number>();
  const dragging = useRef<number>(undefined);
  const latest = useRef(points);
  latest.current = points;
  const axis = (name: string): Axis => ({
    name,
    range: [0, scale],
    ticks: [0, 0.25, 0.5, 0.75, 1].map((part) => Math.round(part * scale)),
  });
  const area = areaOf(axis(axes[0]), axis(axes[1]), { width, height: HEIGHT, margin: 10 });
  const px = (x: number) => area.x(x * scale);
  const py = (y: number) => area.y(y * scale);

  const place = (event: PointerEvent): [number, number] => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    const at = ((event.clientX - box.left) / box.width) * width;
    const up = ((event.clientY - box.top) / box.height) * HEIGHT;
    return [(at - area.left) / (area.right - area.left), (area.bottom - up) / (area.bottom - area.top)];
  };
  const give = (next: CurvePoints) => {
    latest.current = next;
    onMove(next);
  };
  const rest = (next: CurvePoints) => {
    give(next);
    onRest(next);
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
    const away = points.map(([a, b]) => Math.hypot(px(a) - px(x), py(b) - py(y)));
    const nearest = away.indexOf(Math.min(...away));
    if ((away[nearest] ?? 99) < NEAR_PX) {
      dragging.current = nearest;
      setChosen(nearest);
      return;
    }
    if (x < LEAST_GAP || x > 1 - LEAST_GAP || points.length >= MOST_POINTS) return;
    const index = points.findIndex(([at]) => at > x);
    if (points.some(([at]) => Math.abs(at - x) < LEAST_GAP)) return;
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
      rest(without(latest.current, index));
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
    const last = points.length - 1;
    const now = held(chosen ?? 0, 0, last);
    const point = points[now];
    const next = points[now + 1];
    if (!point) return;
    const by = (event.shiftKey ? 10 : 1) / scale;
    const [x, y] = point;
    const step = (dx: number, dy: number) => () => rest(moved(now, [x + dx, y + dy]));
    const acts = new Map<string, (() => void) | undefined>([
      ["PageDown", () => setChosen(Math.min(now + 1, last))],
      ["PageUp", () => setChosen(Math.max(now - 1, 0))],
      ["Home", () => setChosen(0)],
      ["End", () => setChosen(last)],
      ["ArrowLeft", step(-by, 0)],
      ["ArrowRight", step(by, 0)],
      ["ArrowUp", step(0, by)],
      ["ArrowDown", step(0, -by)],
      ["Insert", insert(now, point, next)],
      ["+", insert(now, point, next)],
      ["Delete", remove(now)],
      ["Backspace", remove(now)],
    ]);
    const act = acts.get(event.key);
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    if (chosen === undefined) setChosen(now);
    act();
  }
  /** A point half way to the next. */
  function insert(now: number, [x, y]: CurvePoints[number], next: CurvePoints[number] | undefined) {
    if (!next || points.length >= MOST_POINTS || next[0] - x < 2 * LEAST_GAP) return undefined;
    return () => {
      rest([...points.slice(0, now + 1), [(x + next[0]) / 2, (y + next[1]) / 2], ...points.slice(now + 1)]);
      setChosen(now + 1);
    };
  }
  function remove(now: number) {
    if (now === 0 || now === points.length - 1) return undefined;
    return () => {
      rest(without(points, now));
      setChosen(now - 1);
    };
  }

  const highest = Math.max(...(histogram ?? [0]), 1e-6);
  const bars = histogram
    ?.map((share, index) => {
      const up = Math.sqrt(share / highest) * 0.9;
      return `${px(index / histogram.length).toFixed(1)} ${py(up).toFixed(1)}`;
    })
    .join("L");
  const at = chosen === undefined ? undefined : points[chosen];
  const said = at
    ? `Point ${(chosen ?? 0) + 1}: ${axes[0]} ${fixed(at[0] * scale, 0)}, ${axes[1]} ${fixed(at[1] * scale, 0)}`
    : "";
  return (
    <div className="plot">
      <div className="caption">
        <span>Curve of {label}</span>
        <CopyButtons
          title={`Curve of ${label}`}
          svg={svg}
          table={() => ({ head: [...axes], rows: points.map(([x, y]) => [x * scale, y * scale]) })}
        />
      </div>
      <svg
        ref={svg}
        className="curve"
        viewBox={`0 0 ${width} ${HEIGHT}`}
        height={HEIGHT}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the curve takes keys for its points
        tabIndex={0}
        role="application"
        aria-roledescription="curve"
        aria-label={`Curve of ${label}`}
        aria-describedby={reading}
        aria-keyshortcuts="PageUp PageDown ArrowUp ArrowDown ArrowLeft ArrowRight Insert Delete"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onKeyDown={key}
      >
        <Axes area={area} />
        {bars && (
          <path
            d={`M${area.left} ${area.bottom}L${bars}L${area.right} ${area.bottom}Z`}
            fill="var(--rail)"
            opacity="0.55"
          />
        )}
        <path
          d={`M${area.left} ${area.bottom}L${area.right} ${area.top}`}
          stroke="var(--line)"
          strokeWidth="0.8"
          strokeDasharray="3 3"
        />
        <path d={monotone(points, px, py)} fill="none" stroke={color} strokeWidth="2" />
        {points.map(([x, y], index) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: points have no other name
            key={index}
            x={px(x) - 4}
            y={py(y) - 4}
            width="8"
            height="8"
            fill={index === chosen ? "var(--ink)" : "var(--raise)"}
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
        ))}
      </svg>
      <output id={reading} className="reading">
        {said || `${points.length} points: press for another, drag it off to remove it`}
      </output>
    </div>
  );
}
