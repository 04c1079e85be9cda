import "./PageView.css";
import type { PdfDocument } from "../../api/policyQueries";
import { frameOf, type PageFrame, seen } from "./frame";

/** Points to an inch in a document. */
const POINTS = 72;
/** Pixels a side of what is drawn at once. */
const TILE = 1024;
const MOST_PPI = 1200;

export interface Marked {
  key: string;
  boxes: number[][];
}

interface Props {
  document: PdfDocument;
  page: number;
  zoom: number;
  /** What is asked of the server besides place and size. */
  look: Record<string, string>;
  marks: Marked[];
  /** A place to point at, in points from left and top. */
  spot?: [number, number];
  mirrored?: boolean;
  onPoint: (frame: PageFrame, x: number, y: number) => void;
  onFailed: () => void;
}

/** One page, drawn in tiles as they come into view, with marks on what is chosen. */
export function PageView({ document, page, zoom, look, marks, spot, mirrored, onPoint, onFailed }: Props) {
  const frame = frameOf(document, page);
  if (!frame) return null;
  const ppi = Math.min(MOST_PPI, Math.max(18, Math.round(POINTS * zoom * Math.min(devicePixelRatio, 2))));
  const scale = ppi / POINTS;
  const pixels = [Math.ceil(frame.width * scale), Math.ceil(frame.height * scale)] as const;
  const tiles = [];
  for (let top = 0; top < pixels[1]; top += TILE)
    for (let left = 0; left < pixels[0]; left += TILE)
      tiles.push({
        left,
        top,
        width: Math.min(TILE, pixels[0] - left),
        height: Math.min(TILE, pixels[1] - top),
      });
  const alone = tiles.length === 1;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: every object is a line of the table, which keys reach.
    // biome-ignore lint/a11y/noStaticElementInteractions: as above
    <div
      className="page"
      data-mirrored={mirrored}
      style={{ width: frame.width * zoom, height: frame.height * zoom }}
      onClick={(event) => {
        const at = event.currentTarget.getBoundingClientRect();
        const x = (event.clientX - at.left) / zoom;
        onPoint(frame, mirrored ? frame.width - x : x, (event.clientY - at.top) / zoom);
      }}
    >
      {tiles.map((tile) => {
        const place = alone ? {} : tile;
        const asked = new URLSearchParams({ ...look, ppi: String(ppi) });
        for (const [name, value] of Object.entries(place)) asked.set(name, String(value));
        const source = `/api/policies/documents/${document.id}/pages/${page}?${asked}`;
        const part = (value: number) => (value / scale) * zoom;
        return (
          <img
            key={`${tile.left} ${tile.top}`}
            src={source}
            alt={alone ? `Page ${page} of ${document.name}` : ""}
            loading={alone ? "eager" : "lazy"}
            draggable={false}
            style={{
              left: part(tile.left),
              top: part(tile.top),
              width: part(tile.width),
              height: part(tile.height),
            }}
            onError={onFailed}
          />
        );
      })}
      {marks.flatMap((each) =>
        each.boxes.map((box) => {
          const [left, top, width, height] = seen(frame, box);
          return (
            <i
              key={`${each.key} ${box.join(" ")}`}
              className="page-mark"
              style={{
                left: left * zoom,
                top: top * zoom,
                width: Math.max(3, width * zoom),
                height: Math.max(3, height * zoom),
              }}
            />
          );
        }),
      )}
      {spot && <i className="page-spot" style={{ left: spot[0] * zoom, top: spot[1] * zoom }} />}
    </div>
  );
}
