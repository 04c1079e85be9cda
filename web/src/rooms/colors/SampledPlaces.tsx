import { counted } from "../../shared/figures";

interface Props {
  /** Pixels of the artwork. */
  places: number[][];
  width: number;
  height: number;
  large: boolean;
}

/** Color, and by how much wider than the dot. */
const EDGE_AND_DOT = [
  ["#fff", 2],
  ["#000", 0],
] as const;

/** Where colors were sampled, on the picture: any number of them as two drawings, dark on a light edge. */
export function SampledPlaces({ places, width, height, large }: Props) {
  // A line of no length with round ends is a dot, of the same size on the screen however large the artwork is.
  const dots = places.map(([x, y]) => `M${x} ${y}h0`).join("");
  const size = large ? 9 : 4;
  return (
    <svg viewBox={`0 0 ${width} ${height}`} preserveAspectRatio="none" role="img" aria-label="Sampled places">
      <title>{counted(places.length, "place")}</title>
      {EDGE_AND_DOT.map(([color, wider]) => (
        <path
          key={color}
          d={dots}
          fill="none"
          stroke={color}
          strokeWidth={size + wider}
          strokeLinecap="round"
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}
