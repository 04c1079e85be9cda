import type { PdfDocument } from "../../api/policyQueries";

/** What is shown of a page: its box in points, how it is turned, and its size as it is seen. */
export interface PageFrame {
  box: [number, number, number, number];
  turned: number;
  width: number;
  height: number;
}

/** The frame of a page (from 1); pages that are alike are told once for all of them. */
export function frameOf(document: PdfDocument, page: number): PageFrame | undefined {
  let before = 0;
  for (const each of document.frames) {
    before += each.pages;
    if (page > before) continue;
    const [left = 0, bottom = 0, right = 0, top = 0] = each.box;
    const upright: [number, number] = [right - left, top - bottom];
    const [width, height] = each.turned % 180 ? [upright[1], upright[0]] : upright;
    return { box: [left, bottom, right, top], turned: each.turned, width, height };
  }
  return undefined;
}

/** A box of the page in points, as it lies on what is seen: left, top, width, height. */
export function seen(frame: PageFrame, box: readonly number[]): [number, number, number, number] {
  const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = box;
  const [left, bottom, right, top] = frame.box;
  switch (frame.turned) {
    case 90:
      return [y0 - bottom, x0 - left, y1 - y0, x1 - x0];
    case 180:
      return [right - x1, y0 - bottom, x1 - x0, y1 - y0];
    case 270:
      return [top - y1, right - x1, y1 - y0, x1 - x0];
    default:
      return [x0 - left, top - y1, x1 - x0, y1 - y0];
  }
}
