import "./LinePlot.css";
import { type KeyboardEvent, useRef } from "react";
import { fixed } from "../figures";
import type { PlotArea } from "./Axes";
import { Plot, type Spot } from "./Plot";
import { type Axis, apart } from "./scale";

export interface PlotLine {
  name: string;
  color: string;
  dash?: string;
  thin?: boolean;
  /** A line that another one of the same name stands for: it is neither named nor read out. */
  unnamed?: boolean;
  /** Whether a point of this value is drawn open rather than filled. */
  hollow?: (value: number) => boolean;
  points: [number, number][];
}

/** A place on the axis that can be dragged or moved by arrow keys; the figure stands beside it. */
export interface Handle {
  name: string;
  at: number;
  text: string;
  step?: number;
  onMove: (value: number) => void;
  onRest: (value: number) => void;
}

interface Props {
  title: string;
  note?: string;
  x: Axis;
  y: Axis;
  lines: PlotLine[];
  /** A place on the axis that counts: a limit, the choice. */
  mark?: number;
  dots?: boolean;
  /** Both axes are of one kind, as a* and b*: drawn as high as wide and read out point by point. */
  square?: boolean;
  height?: number;
  digits?: number;
  handles?: Handle[];
}

/** A few lines over one axis, with their names at their ends; places on the axis can be dragged. */
export function LinePlot(props: Props) {
  const { title, note, x, y, lines, mark, dots, square, height, digits = 1, handles = [] } = props;
  const dragged = useRef<Handle>(undefined);
  const named = lines.filter((line) => line.name && !line.unnamed && line.points.length);
  const longest = Math.max(0, ...named.map((line) => line.name.length));

  const xText = (value: number) =>
    `${x.text ? x.text(value) : fixed(value, spread(x) < 5 ? 2 : 0)}${unit(x)}`;
  const yText = (value: number) => (y.text ? y.text(value) : fixed(value, digits));
  const read = lines.filter((line) => !line.unnamed && line.points.length);
  const spots: Spot[] = square
    ? read.flatMap((line) =>
        line.points.map(([a, b]) => ({
          x: a,
          y: b,
          text: `${line.name} ${x.name} ${fixed(a, 2)}  ${y.name} ${fixed(b, 2)}`.trim(),
        })),
      )
    : places(read).map((at) => ({
        x: at,
        text: `${x.short ?? x.name} ${xText(at)}:  ${read
          .flatMap((line) => {
            const value = valueAt(line, at);
            return value === undefined ? [] : `${line.name || y.name} ${yText(value)}`;
          })
          .join("  ")}`,
      }));
  const table = () =>
    square
      ? { head: [x.name, y.name], rows: read.flatMap((line) => line.points.map((each) => [...each])) }
      : {
          head: [x.name, ...lines.map((line) => `${line.name || y.name}${line.unnamed ? ", before" : ""}`)],
          rows: places(lines).map((at) => [at, ...lines.map((line) => valueAt(line, at) ?? "")]),
        };

  return (
    <Plot
      title={title}
      note={note}
      x={x}
      y={y}
      height={height}
      margin={square || !named.length ? 12 : 9 + longest * 7}
      square={square}
      spots={spots}
      table={table}
      onPointerMove={(value) => dragged.current?.onMove(rounded(value))}
      onPointerUp={(value) => {
        dragged.current?.onRest(rounded(value));
        dragged.current = undefined;
      }}
    >
      {(area, at) => (
        <>
          {mark !== undefined && (
            <path
              d={`M${area.x(mark)} ${area.top}V${area.bottom}`}
              stroke="var(--ink)"
              strokeDasharray="3 2"
              strokeWidth="1.5"
            />
          )}
          {lines.map((line) => (
            <Drawn key={`${line.name} ${line.unnamed}`} line={line} area={area} dots={dots} />
          ))}
          {at?.y === undefined &&
            at &&
            read.map((line) => {
              const value = valueAt(line, at.x);
              return (
                value !== undefined && (
                  <circle key={line.name} cx={area.x(at.x)} cy={area.y(value)} r="3" fill={line.color} />
                )
              );
            })}
          {!square && <Names lines={named} area={area} />}
          {handles.map((handle) => (
            <Grip
              key={handle.name}
              handle={handle}
              axis={x}
              area={area}
              onHold={() => {
                dragged.current = handle;
              }}
            />
          ))}
        </>
      )}
    </Plot>
  );
}

const rounded = (value: number) => Math.round(value * 10) / 10;
const spread = (axis: Axis) => Math.abs(axis.range[1] - axis.range[0]);
const unit = (axis: Axis) => (axis.unit ? ` ${axis.unit}` : "");

/** Where any of the lines has a point, in the order of the axis. */
function places(lines: PlotLine[]): number[] {
  return [...new Set(lines.flatMap((line) => line.points.map(([at]) => at)))].sort((a, b) => a - b);
}

/** A line's value at a place, between its points if need be; none beyond its ends. */
export function valueAt(line: Pick<PlotLine, "points">, at: number): number | undefined {
  const points = [...line.points].sort((a, b) => a[0] - b[0]);
  const next = points.findIndex(([place]) => place >= at);
  const [right, left] = [points[next], points[next - 1]];
  if (!right) return undefined;
  if (right[0] === at || !left) return right[0] === at ? right[1] : undefined;
  return left[1] + ((at - left[0]) / (right[0] - left[0])) * (right[1] - left[1]);
}

function Drawn({ line, area, dots }: { line: PlotLine; area: PlotArea; dots?: boolean }) {
  if (line.points.length === 0) return null;
  return (
    <>
      <path
        d={`M${line.points.map(([a, b]) => `${area.x(a).toFixed(1)} ${area.y(b).toFixed(1)}`).join("L")}`}
        fill="none"
        stroke={line.color}
        strokeWidth={line.thin ? 1 : 1.8}
        strokeDasharray={line.dash}
      />
      {dots &&
        line.points.map(([a, b], at) => (
          <circle
            // biome-ignore lint/suspicious/noArrayIndexKey: a point is its place on the line
            key={at}
            cx={area.x(a)}
            cy={area.y(b)}
            r={line.hollow ? 3.6 : 2.2}
            fill={line.hollow?.(b) ? "var(--raise)" : line.color}
            stroke={line.hollow && line.color}
          />
        ))}
    </>
  );
}

/** Names at the ends of the lines, pushed apart where lines meet. */
function Names({ lines, area }: { lines: PlotLine[]; area: PlotArea }) {
  const ends = lines.map((line) => area.y(line.points.at(-1)?.[1] ?? 0));
  const at = apart(ends, 11, area.bottom);
  return lines.map((line, index) => (
    <text key={line.name} className="name" x={area.right + 5} y={(at[index] ?? 0) + 3.5}>
      {line.name}
    </text>
  ));
}

function Grip(props: { handle: Handle; axis: Axis; area: PlotArea; onHold: () => void }) {
  const { handle, axis, area, onHold } = props;
  const at = area.x(handle.at);
  const right = at > (area.left + area.right) / 2;
  function key(event: KeyboardEvent) {
    const up = event.key === "ArrowRight" || event.key === "ArrowUp";
    if (!up && event.key !== "ArrowLeft" && event.key !== "ArrowDown") return;
    event.preventDefault();
    event.stopPropagation();
    const by = (up ? 1 : -1) * (handle.step ?? 1) * (event.shiftKey ? 10 : 1);
    handle.onRest(Math.min(Math.max(handle.at + by, Math.min(...axis.range)), Math.max(...axis.range)));
  }
  return (
    <g
      className="handle"
      role="slider"
      tabIndex={0}
      aria-label={handle.name}
      aria-valuemin={Math.min(...axis.range)}
      aria-valuemax={Math.max(...axis.range)}
      aria-valuenow={handle.at}
      aria-valuetext={handle.text}
      onKeyDown={key}
      onPointerDown={(event) => {
        event.currentTarget.ownerSVGElement?.setPointerCapture(event.pointerId);
        onHold();
      }}
    >
      <path d={`M${at} ${area.top}V${area.bottom}`} stroke="transparent" strokeWidth="24" />
      <path d={`M${at} ${area.top}V${area.bottom}`} stroke="var(--ink)" />
      <rect x={at - 4} y={area.bottom - 7} width="8" height="12" fill="var(--ink)" />
      <text x={at + (right ? -5 : 5)} y={area.top + 9} textAnchor={right ? "end" : "start"}>
        {handle.text}
      </text>
    </g>
  );
}
