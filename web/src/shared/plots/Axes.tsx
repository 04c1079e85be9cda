import { fixed } from "../figures";
import { type Axis, type Scale, scaleOf, ticksOf } from "./scale";

/** Where a plot is drawn within its picture, and what stands at its axes. */
export interface PlotArea {
  axes: [Axis, Axis];
  x: Scale;
  y: Scale;
  left: number;
  right: number;
  top: number;
  bottom: number;
  height: number;
  xTicks: number[];
  yTicks: number[];
  xText: (value: number) => string;
  yText: (value: number) => string;
}

const [TOP, BOTTOM] = [18, 32];

const named = (axis: Axis) => (axis.unit ? `${axis.name}, ${axis.unit}` : axis.name);

function textOf(axis: Axis, ticks: number[]) {
  if (axis.text) return axis.text;
  const decimals = ticks.map((tick) => String(Number(tick.toFixed(4))).split(".")[1]?.length ?? 0);
  return (value: number) => fixed(value, Math.max(0, ...decimals));
}

interface Size {
  width: number;
  height: number;
  /** Room at the right for names at the ends of lines. */
  margin: number;
  /** As wide as high, so that both axes count alike. */
  square?: boolean;
}

/** The part of a picture of this size that is left between its axes. */
export function areaOf(x: Axis, y: Axis, { width, height, margin, square }: Size): PlotArea {
  const yTicks = ticksOf(y, Math.max(Math.floor((square ? Math.min(width, height) : height) / 34), 2));
  const yText = textOf(y, yTicks);
  const left = 10 + 6.2 * Math.max(...yTicks.map((tick) => yText(tick).length), 1);
  const side = Math.min(width - left - margin, height - TOP - BOTTOM);
  const tall = square ? side + TOP + BOTTOM : height;
  const right = square ? left + side : width - margin;
  const xTicks = ticksOf(x, Math.max(Math.floor((right - left) / 46), 2));
  return {
    axes: [x, y],
    x: scaleOf(x, left, right),
    y: scaleOf(y, tall - BOTTOM, TOP),
    left,
    right,
    top: TOP,
    bottom: tall - BOTTOM,
    height: tall,
    xTicks,
    yTicks,
    xText: textOf(x, xTicks),
    yText,
  };
}

/** Lines, figures, names and units of both axes. */
export function Axes({ area }: { area: PlotArea }) {
  return (
    <>
      {area.yTicks.map((tick) => (
        <g key={tick}>
          <path d={`M${area.left} ${area.y(tick)}H${area.right}`} stroke="var(--line)" strokeWidth="0.6" />
          <text className="tick" x={area.left - 5} y={area.y(tick) + 3.5} textAnchor="end">
            {area.yText(tick)}
          </text>
        </g>
      ))}
      {area.xTicks.map((tick) => (
        <g key={tick}>
          <path d={`M${area.x(tick)} ${area.bottom}v4`} stroke="var(--ink)" />
          <text className="tick" x={area.x(tick)} y={area.bottom + 15} textAnchor="middle">
            {area.xText(tick)}
          </text>
        </g>
      ))}
      <text className="tick" x="0" y="9">
        {named(area.axes[1])}
      </text>
      <text className="tick" x={(area.left + area.right) / 2} y={area.height - 3} textAnchor="middle">
        {named(area.axes[0])}
      </text>
      <path d={`M${area.left} ${area.top}V${area.bottom}H${area.right}`} fill="none" stroke="var(--ink)" />
    </>
  );
}
