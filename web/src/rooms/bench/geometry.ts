import type { PictureWindow } from "../../api/client";

export interface Size {
  width: number;
  height: number;
}

/** Where the artwork lies on the stage: screen pixels for one of its own, and its left top corner there. */
export interface Placing {
  zoom: number;
  x: number;
  y: number;
}

/** A close look: the artwork pixel in the middle, and the zoom. */
export interface Crop {
  zoom: number;
  x: number;
  y: number;
}

const MARGIN = { x: 32, top: 38, bottom: 31 };
const LARGEST_ZOOM = 16;

/** The whole artwork on a stage, above tools that take so many pixels at its foot. */
export function fitted(artwork: Size, stage: Size, tools = 27): Placing {
  const height = stage.height - MARGIN.top - MARGIN.bottom - tools;
  const zoom = Math.min((stage.width - 2 * MARGIN.x) / artwork.width, height / artwork.height, 1);
  const safe = Math.max(zoom, 0.01);
  return {
    zoom: safe,
    x: Math.round((stage.width - artwork.width * safe) / 2),
    y: Math.round(MARGIN.top + (height - artwork.height * safe) / 2),
  };
}

/** Zoom with the artwork's pixel under (cx, cy) held still. Above 1 only whole numbers: pixels stay square. */
export function zoomAt(now: Placing, wanted: number, cx: number, cy: number): Placing {
  const limited = Math.min(Math.max(wanted, 0.02), LARGEST_ZOOM);
  const zoom = limited > 1 ? Math.round(limited) : limited;
  const scale = zoom / now.zoom;
  return { zoom, x: Math.round(cx - (cx - now.x) * scale), y: Math.round(cy - (cy - now.y) * scale) };
}

/** The next step up or down: halves and doubles, with the actual pixels among them. */
export function nextZoom(zoom: number, direction: 1 | -1): number {
  const step = Math.log2(zoom);
  const next = direction > 0 ? Math.floor(step + 0.51) + 0.5 : Math.ceil(step - 0.51) - 0.5;
  const value = 2 ** next;
  return value > 1 ? 2 ** Math.round(direction > 0 ? Math.floor(step) + 1 : Math.ceil(step) - 1) : value;
}

/** Keep at least a strip of the artwork on the stage. */
export function hold(placing: Placing, artwork: Size, stage: Size): Placing {
  const keep = 60;
  const clamp = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);
  return {
    zoom: placing.zoom,
    x: clamp(placing.x, keep - artwork.width * placing.zoom, stage.width - keep),
    y: clamp(placing.y, keep - artwork.height * placing.zoom, stage.height - keep),
  };
}

/** What of the artwork is on the stage, in whole screen pixels (below 1) or whole artwork pixels (from 1 on). */
export function visible(placing: Placing, artwork: Size, stage: Size): PictureWindow | undefined {
  const { zoom } = placing;
  const left = Math.max(0, Math.floor(-placing.x / zoom));
  const top = Math.max(0, Math.floor(-placing.y / zoom));
  const right = Math.min(artwork.width, Math.ceil((stage.width - placing.x) / zoom));
  const bottom = Math.min(artwork.height, Math.ceil((stage.height - placing.y) / zoom));
  if (right <= left || bottom <= top) return undefined;
  return {
    left,
    top,
    width: Math.max(1, Math.round((right - left) * zoom)),
    height: Math.max(1, Math.round((bottom - top) * zoom)),
    zoom,
  };
}

/** The artwork's pixel under a point of the stage. */
export function pixelAt(
  placing: Placing,
  artwork: Size,
  cx: number,
  cy: number,
): [number, number] | undefined {
  const x = Math.floor((cx - placing.x) / placing.zoom);
  const y = Math.floor((cy - placing.y) / placing.zoom);
  return x >= 0 && y >= 0 && x < artwork.width && y < artwork.height ? [x, y] : undefined;
}

/** What a frame shows of the artwork: all of it, or the same crop as the stage had. */
export function framed(artwork: Size, frame: Size, crop: Crop | undefined): PictureWindow | undefined {
  const width = Math.floor(frame.width);
  const height = Math.floor(frame.height);
  if (width < 1 || height < 1) return undefined;
  const whole = Math.min(width / artwork.width, height / artwork.height, 1);
  const zoom = crop && crop.zoom > whole ? crop.zoom : whole;
  const held = (middle: number, side: number, room: number) =>
    Math.max(0, Math.min(Math.round(middle - room / zoom / 2), Math.floor(side - room / zoom)));
  const wide = Math.min(width, Math.floor(artwork.width * zoom));
  const high = Math.min(height, Math.floor(artwork.height * zoom));
  return {
    left: held(crop?.x ?? artwork.width / 2, artwork.width, wide),
    top: held(crop?.y ?? artwork.height / 2, artwork.height, high),
    width: Math.max(wide, 1),
    height: Math.max(high, 1),
    zoom,
  };
}
