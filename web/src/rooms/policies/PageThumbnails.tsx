import "./PageThumbnails.css";
import { useEffect, useRef, useState } from "react";
import type { PdfDocument } from "../../api/policyQueries";
import { frameOf } from "./frame";

/** CSS pixels: a row of the strip, the picture in it, and rows kept ready outside the view. */
const ROW = 104;
const WIDE = 60;
const HIGH = 78;
const READY = 4;

interface Props {
  document: PdfDocument;
  page: number;
  /** How many objects of a page are refused. */
  refused: ReadonlyMap<number, number>;
  onPage: (page: number) => void;
}

/** Pages in small, as they came; only those in view are asked for, however many there are. */
export function PageThumbnails({ document, page, refused, onPage }: Props) {
  const strip = useRef<HTMLDivElement>(null);
  const [first, setFirst] = useState(0);
  const [rows, setRows] = useState(12);
  useEffect(() => {
    const frame = strip.current;
    if (!frame) return;
    const look = () => {
      setFirst(Math.floor(frame.scrollTop / ROW));
      setRows(Math.ceil(frame.clientHeight / ROW));
    };
    const watch = new ResizeObserver(look);
    watch.observe(frame);
    frame.addEventListener("scroll", look, { passive: true });
    return () => {
      watch.disconnect();
      frame.removeEventListener("scroll", look);
    };
  }, []);
  // The page that is shown stays in view in the strip.
  useEffect(() => {
    const frame = strip.current;
    if (!frame) return;
    const top = (page - 1) * ROW;
    if (top < frame.scrollTop) frame.scrollTop = top;
    if (top + ROW > frame.scrollTop + frame.clientHeight) frame.scrollTop = top + ROW - frame.clientHeight;
  }, [page]);
  const from = Math.max(0, first - READY);
  const shown = Array.from(
    { length: Math.max(0, Math.min(document.pages, first + rows + READY) - from) },
    (_, at) => from + at + 1,
  );
  return (
    <nav className="thumbnails" aria-label="Pages" ref={strip}>
      <div style={{ height: document.pages * ROW }}>
        {shown.map((number) => {
          const frame = frameOf(document, number);
          const scale = frame ? Math.min(WIDE / frame.width, HIGH / frame.height) : 0;
          const ppi = Math.max(9, Math.ceil(72 * scale * Math.min(devicePixelRatio, 2)));
          return (
            <button
              key={number}
              type="button"
              style={{ top: (number - 1) * ROW, height: ROW }}
              aria-current={number === page ? "page" : undefined}
              aria-label={`Page ${number}${refused.has(number) ? `, ${refused.get(number)} refused` : ""}`}
              onClick={() => onPage(number)}
            >
              {frame && (
                <img
                  alt=""
                  src={`/api/policies/documents/${document.id}/pages/${number}?look=came&ppi=${Math.min(ppi, 72)}`}
                  style={{ width: frame.width * scale, height: frame.height * scale }}
                />
              )}
              <span>
                {number}
                {refused.has(number) && <b> refused</b>}
              </span>
            </button>
          );
        })}
      </div>
    </nav>
  );
}
