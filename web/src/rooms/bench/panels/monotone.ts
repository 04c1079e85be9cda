import type { CurvePoints } from "../../../api/client";

/**
 * The path of a curve as drawn: monotone cubic through the points (0…1), as the core computes it (Fritsch and
 * Carlson 1980), straight on to both ends.
 */
export function monotone(points: CurvePoints, px: (x: number) => number, py: (y: number) => number): string {
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
  const out = (at: number, to: number) => `${px(at).toFixed(2)} ${py(to).toFixed(2)}`;
  let path = `M${out(0, y(0))}L${out(x(0), y(0))}`;
  for (let i = 0; i < n - 1; i++) {
    const third = (h[i] ?? 0) / 3;
    path += `C${out(x(i) + third, y(i) + slope(i) * third)} ${out(x(i + 1) - third, y(i + 1) - slope(i + 1) * third)} ${out(x(i + 1), y(i + 1))}`;
  }
  return `${path}L${out(1, y(n - 1))}`;
}
