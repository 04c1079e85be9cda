import "./plots.css";
import { type KeyboardEvent, type PointerEvent, type ReactNode, useId, useRef, useState } from "react";
import { Axes, areaOf, type PlotArea } from "./Axes";
import { CopyButtons } from "./CopyButtons";
import type { PlotTable } from "./copied";
import type { Axis } from "./scale";
import { useWidth } from "./useWidth";

/** Something that can be read out of a plot; without a `y` it is a place on the horizontal axis. */
export interface Spot {
  x: number;
  y?: number;
  text: string;
}

interface Props {
  title: string;
  /** Below, where nothing is pointed at: what is dashed, what is dragged. */
  note?: string;
  /** What a screen reader is told, if the title says too little. */
  label?: string;
  x: Axis;
  y: Axis;
  height?: number;
  /** Room at the right for names at the ends of lines. */
  margin?: number;
  /** As high as wide, so that both axes count alike. */
  square?: boolean;
  spots: Spot[];
  table: () => PlotTable;
  children: (area: PlotArea, at: Spot | undefined) => ReactNode;
  onPointerMove?: (value: number) => void;
  onPointerUp?: (value: number) => void;
  className?: string;
}

/**
 * Axes with figures and units around what is drawn, a read-out under the pointer and by arrow keys, and what is
 * seen as CSV and SVG.
 */
export function Plot(props: Props) {
  const {
    title,
    note,
    x,
    y,
    margin = 10,
    square,
    height = square ? Number.POSITIVE_INFINITY : 168,
    spots,
    table,
    children,
  } = props;
  const svg = useRef<SVGSVGElement>(null);
  const width = useWidth(svg, 300);
  const [at, setAt] = useState<number>();
  const reading = useId();
  const area = areaOf(x, y, { width, height, margin, square });
  const { left, height: tall } = area;
  // As many lines as the longest reading takes, so that nothing below moves while one reads.
  const lines = Math.max(1, ...spots.map((each) => Math.ceil((each.text.length * 6.3) / (width - 4))));
  const spot = at === undefined ? undefined : spots[at];

  function valueUnder(event: PointerEvent): [number, number] {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    return [
      ((event.clientX - box.left) / box.width) * width,
      ((event.clientY - box.top) / box.height) * tall,
    ];
  }
  function point(event: PointerEvent) {
    const [px, py] = valueUnder(event);
    props.onPointerMove?.(area.x.back(Math.min(Math.max(px, left), area.right)));
    let [best, least] = [-1, Number.POSITIVE_INFINITY];
    spots.forEach((each, index) => {
      const away = Math.hypot(area.x(each.x) - px, each.y === undefined ? 0 : area.y(each.y) - py);
      if (away < least) [best, least] = [index, away];
    });
    setAt(best < 0 ? undefined : best);
  }
  function key(event: KeyboardEvent) {
    if (event.target !== event.currentTarget || !spots.length) return;
    const last = spots.length - 1;
    const now = at ?? -1;
    const next = {
      ArrowRight: Math.min(now + 1, last),
      ArrowLeft: Math.max(at === undefined ? last : now - 1, 0),
      PageDown: Math.min(now + 10, last),
      PageUp: Math.max(now - 10, 0),
      Home: 0,
      End: last,
    }[event.key];
    if (next === undefined) return;
    event.preventDefault();
    setAt(next);
  }
  return (
    <div className={`plot ${props.className ?? ""}`}>
      <div className="caption">
        <span>{title}</span>
        <CopyButtons title={title} svg={svg} table={table} />
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: a picture that arrow keys read out has no element of its own */}
      <svg
        ref={svg}
        viewBox={`0 0 ${width} ${tall}`}
        height={tall}
        role="group"
        aria-roledescription="plot"
        aria-label={props.label ?? title}
        aria-describedby={reading}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: arrow keys read the plot out
        tabIndex={0}
        onKeyDown={key}
        onPointerMove={point}
        onPointerUp={(event) =>
          props.onPointerUp?.(area.x.back(Math.min(Math.max(valueUnder(event)[0], left), area.right)))
        }
        onPointerLeave={() => setAt(undefined)}
        onBlur={() => setAt(undefined)}
      >
        <Axes area={area} />
        {children(area, spot)}
        {spot && spot.y === undefined && (
          <path
            d={`M${area.x(spot.x)} ${area.top}V${area.bottom}`}
            stroke="var(--ink)"
            strokeDasharray="2 2"
            pointerEvents="none"
          />
        )}
        {spot && spot.y !== undefined && (
          <circle
            cx={area.x(spot.x)}
            cy={area.y(spot.y)}
            r="5"
            fill="none"
            stroke="var(--ink)"
            strokeWidth="1.5"
            pointerEvents="none"
          />
        )}
      </svg>
      <output id={reading} className="reading" style={{ minHeight: `${lines * 1.35}em` }}>
        {spot?.text ?? note}
      </output>
    </div>
  );
}
