/** How a plot's axis counts: its range may fall, as lightness does from paper to black. */
export interface Axis {
  name: string;
  /** How a read-out calls it, where the name at the axis is long. */
  short?: string;
  unit?: string;
  range: readonly [number, number];
  /** Figures beside the axis, where even steps do not tell. */
  ticks?: number[];
  text?: (value: number) => string;
  /** Drawn by its square root, so that small shares stay visible. */
  root?: boolean;
}

/** A function from an axis' values to pixels between two ends, and back. */
export interface Scale {
  (value: number): number;
  back: (pixel: number) => number;
}

/** Values outside the range are held at its ends, so that a line never leaves its plot. */
export function scaleOf(axis: Axis, from: number, to: number): Scale {
  const bent = (value: number) => (axis.root ? Math.sqrt(Math.max(value, 0)) : value);
  const [low, high] = [bent(axis.range[0]), bent(axis.range[1])];
  const span = high - low || 1;
  const scale = (value: number) => from + Math.min(Math.max((bent(value) - low) / span, 0), 1) * (to - from);
  const back = (pixel: number) => {
    const value = low + ((pixel - from) / (to - from || 1)) * span;
    return axis.root ? value * value : value;
  };
  return Object.assign(scale, { back });
}

/** The widest of the steps 1, 2, 2.5, 5 × 10ⁿ that gives at least two figures and at most `most`. */
export function ticksOf(axis: Axis, most: number): number[] {
  if (axis.ticks) return axis.ticks;
  const [low, high] = [Math.min(...axis.range), Math.max(...axis.range)];
  const size = 10 ** Math.floor(Math.log10((high - low || 1) / Math.max(most, 1)));
  const step =
    [1, 2, 2.5, 5, 10, 20].map((by) => by * size).find((by) => (high - low) / by <= most) ?? high - low;
  const first = Math.ceil(low / step - 1e-9);
  const count = Math.floor(high / step + 1e-9) - first + 1;
  return Array.from({ length: Math.max(count, 0) }, (_, index) =>
    Number(((first + index) * step).toPrecision(10)),
  );
}

/** Places of labels of one height, pushed apart downward and then up from the end, in the order of their lines. */
export function apart(wanted: number[], gap: number, end: number): number[] {
  const order = wanted.map((value, at) => ({ value, at })).sort((a, b) => a.value - b.value);
  let last = Number.NEGATIVE_INFINITY;
  for (const each of order) {
    each.value = Math.max(each.value, last + gap);
    last = each.value;
  }
  let next = end + gap;
  for (const each of order.reverse()) {
    each.value = Math.min(each.value, next - gap);
    next = each.value;
  }
  const out = [...wanted];
  for (const each of order) out[each.at] = each.value;
  return out;
}
