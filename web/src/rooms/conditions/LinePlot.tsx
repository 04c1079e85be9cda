interface Line {
  name: string;
  color: string;
  dash?: string;
  points: [number, number][];
}

interface Props {
  title: string;
  across: string;
  up: string;
  x: [number, number];
  y: [number, number];
  lines: Line[];
  mark?: number;
}

const WIDTH = 360;
const HEIGHT = 170;

/** A few lines over one axis, with their names at the end. */
export function LinePlot({ title, across, up, x, y, lines, mark }: Props) {
  const px = (value: number) => ((value - x[0]) / (x[1] - x[0])) * WIDTH;
  const py = (value: number) => HEIGHT - ((value - y[0]) / (y[1] - y[0])) * HEIGHT;
  return (
    <div className="plot">
      <div className="caption">
        <span>{title}</span>
        <span>{up}</span>
      </div>
      <svg viewBox={`0 -4 ${WIDTH + 22} ${HEIGHT + 8}`} role="img" aria-label={title}>
        {[0.25, 0.5, 0.75].map((share) => (
          <path key={share} d={`M0 ${HEIGHT * share}H${WIDTH}`} stroke="var(--line)" strokeWidth="0.6" />
        ))}
        <path d={`M0 ${HEIGHT}H${WIDTH}`} stroke="var(--ink)" />
        {mark !== undefined && (
          <path d={`M${px(mark)} 0V${HEIGHT}`} stroke="var(--ink)" strokeDasharray="3 2" strokeWidth="1.5" />
        )}
        {lines.map((line, index) => (
          <g key={line.name}>
            <path
              d={`M${line.points.map(([a, b]) => `${px(a).toFixed(1)} ${Math.min(Math.max(py(b), -4), HEIGHT + 4).toFixed(1)}`).join("L")}`}
              fill="none"
              stroke={line.color}
              strokeWidth="1.8"
              strokeDasharray={line.dash}
            />
            <text x={WIDTH + 4} y={12 + index * 12} fontSize="10" fontWeight="700" fill={line.color}>
              {line.name}
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
