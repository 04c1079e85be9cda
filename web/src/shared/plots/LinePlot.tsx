import { type PointerEvent, useRef } from "react";

export interface Line {
  name: string;
  color: string;
  dash?: string;
  /** A line that another one of the same name stands for. */
  unnamed?: boolean;
  points: [number, number][];
}

/** A place on the axis that can be dragged; the figure stands beside it. */
export interface Handle {
  name: string;
  at: number;
  text: string;
  onMove: (value: number) => void;
  onRest: (value: number) => void;
}

interface Props {
  title: string;
  across: string;
  up: string;
  x: [number, number];
  y: [number, number];
  lines: Line[];
  mark?: number;
  dots?: boolean;
  /** Figures at the ends of the axes. */
  figures?: boolean;
  handles?: Handle[];
}

const WIDTH = 360;
const HEIGHT = 170;

/** A few lines over one axis, with their names at the end; places on the axis can be dragged. */
export function LinePlot({ title, across, up, x, y, lines, mark, dots, figures, handles = [] }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const dragged = useRef<Handle>(undefined);
  const px = (value: number) => ((value - x[0]) / (x[1] - x[0])) * WIDTH;
  const py = (value: number) => {
    const place = HEIGHT - ((value - y[0]) / (y[1] - y[0])) * HEIGHT;
    return Math.min(Math.max(place, -4), HEIGHT + 4);
  };
  const valueAt = (event: PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return x[0];
    const share = ((event.clientX - box.left) / box.width) * ((WIDTH + 22) / WIDTH);
    const value = x[0] + Math.min(Math.max(share, 0), 1) * (x[1] - x[0]);
    return Math.round(value * 10) / 10;
  };
  return (
    <div className="plot">
      <div className="caption">
        <span>{title}</span>
        <span>{up}</span>
      </div>
      <svg
        ref={svg}
        viewBox={`0 -4 ${WIDTH + 22} ${HEIGHT + 8}`}
        role="img"
        aria-label={title}
        onPointerMove={(event) => dragged.current?.onMove(valueAt(event))}
        onPointerUp={(event) => {
          dragged.current?.onRest(valueAt(event));
          dragged.current = undefined;
        }}
      >
        {[0.25, 0.5, 0.75].map((share) => (
          <path key={share} d={`M0 ${HEIGHT * share}H${WIDTH}`} stroke="var(--line)" strokeWidth="0.6" />
        ))}
        <path d={`M0 ${HEIGHT}H${WIDTH}`} stroke="var(--ink)" />
        {figures && (
          <>
            <text x="2" y="9" fontSize="9" fill="var(--soft)">
              {Math.round(y[1] * 10) / 10}
            </text>
            <text x={WIDTH} y={HEIGHT - 3} fontSize="9" textAnchor="end" fill="var(--soft)">
              {x[1]}
            </text>
          </>
        )}
        {mark !== undefined && (
          <path d={`M${px(mark)} 0V${HEIGHT}`} stroke="var(--ink)" strokeDasharray="3 2" strokeWidth="1.5" />
        )}
        {lines.map((line, index) => (
          <g key={line.name}>
            <path
              d={`M${line.points.map(([a, b]) => `${px(a).toFixed(1)} ${py(b).toFixed(1)}`).join("L")}`}
              fill="none"
              stroke={line.color}
              strokeWidth="1.8"
              strokeDasharray={line.dash}
            />
            {dots &&
              line.points.map(([a, b], at) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a point is its place on the line
                <circle key={at} cx={px(a)} cy={py(b)} r="2.2" fill={line.color} />
              ))}
            {!line.unnamed && (
              <text x={WIDTH + 4} y={12 + index * 12} fontSize="10" fontWeight="700" fill={line.color}>
                {line.name}
              </text>
            )}
          </g>
        ))}
        {handles.map((handle) => (
          <g
            key={handle.name}
            className="handle"
            onPointerDown={(event) => {
              svg.current?.setPointerCapture(event.pointerId);
              dragged.current = handle;
            }}
          >
            <path d={`M${px(handle.at)} 0V${HEIGHT}`} stroke="transparent" strokeWidth="12" />
            <path d={`M${px(handle.at)} 0V${HEIGHT}`} stroke="var(--ink)" strokeWidth="1" />
            <rect x={px(handle.at) - 4} y={HEIGHT - 7} width="8" height="11" fill="var(--ink)" />
            <text
              x={px(handle.at) + (handle.at > (x[0] + x[1]) / 2 ? -5 : 5)}
              y="10"
              fontSize="10"
              textAnchor={handle.at > (x[0] + x[1]) / 2 ? "end" : "start"}
              fill="var(--ink)"
            >
              {handle.text}
            </text>
          </g>
        ))}
      </svg>
      <div className="caption">
        <span>{across}</span>
      </div>
    </div>
  );
}
