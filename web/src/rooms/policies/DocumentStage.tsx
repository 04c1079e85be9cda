import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useEffect, useRef, useState } from "react";
import { type Decisions, type Output, type PdfDocument, useDocumentActions } from "../../api/policyQueries";
import { Choice } from "../../shared/ui/Choice";

type Look = "came" | "prints" | "plate";
const PLATES: Record<string, string> = { C: "Cyan", M: "Magenta", Y: "Yellow", K: "Black" };
/** Points to an inch in a document. */
const POINTS = 72;
/** Around a page that is fitted in. */
const MARGIN = 8;
const ZOOMS = [0.25, 0.5, 0.75, 1, 1.5, 2, 3, 4, 8];

interface Props {
  documents: PdfDocument[];
  document: PdfDocument | undefined;
  output: Output | undefined;
  page: number;
  row: number | undefined;
  record: number | undefined;
  decisions: Decisions | undefined;
  onDocument: (id: number) => void;
  onPage: (page: number) => void;
  onPoint: (record: number | undefined) => void;
}

/** A page as it came, as it prints, or plate by plate, with the objects of a row or of a line of the table marked. */
export function DocumentStage(props: Props) {
  const { documents, document, output, page, row, record, decisions, onDocument, onPage, onPoint } = props;
  const { bringIn, remove } = useDocumentActions();
  const [look, setLook] = useState<Look>("prints");
  const [plate, setPlate] = useState("Black");
  const [chosenZoom, setZoom] = useState<number>();
  const [room, setRoom] = useState<[number, number]>([640, 480]);
  const frame = useRef<HTMLDivElement>(null);
  const [failed, setFailed] = useState<string>();
  const input = useRef<HTMLInputElement>(null);
  const take = (file: File | undefined) =>
    file && bringIn.mutate(file, { onSuccess: (come) => onDocument(come.document.id) });
  const size = document?.facts["first page points"] as [number, number] | undefined;
  // The whole page, until somebody asks for another size.
  const fit = size ? Math.min((room[0] - MARGIN) / size[0], (room[1] - MARGIN) / size[1], 4) : 1;
  const zoom = chosenZoom ?? Math.max(0.1, fit);
  useEffect(() => {
    if (!frame.current) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setRoom([entry.contentRect.width, entry.contentRect.height]);
    });
    watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);
  const ppi = Math.min(600, Math.max(18, Math.round(POINTS * zoom * Math.min(devicePixelRatio, 2))));
  const asked = new URLSearchParams({
    look,
    ppi: String(ppi),
    output: String(output?.id ?? 0),
    plate: look === "plate" ? plate : "",
    v: String(output?.version ?? 0),
  });
  const source = document ? `/api/policies/documents/${document.id}/pages/${page}?${asked}` : undefined;
  const marked = (decisions?.records ?? [])
    .map((each, at) => ({ ...each, at }))
    .filter(
      (each) =>
        each.page === page &&
        (each.at === record || (row !== undefined && each.row === row + 1 && record === undefined)),
    );

  /** The smallest object under the pointer, as the line of the table that tells of it. */
  function pointed(event: React.MouseEvent<HTMLDivElement>) {
    if (!size) return;
    const frame = event.currentTarget.getBoundingClientRect();
    const x = (event.clientX - frame.left) / zoom;
    const y = size[1] - (event.clientY - frame.top) / zoom;
    let best: { at: number; area: number } | undefined;
    decisions?.records.forEach((each, at) => {
      if (each.page !== page) return;
      for (const [left = 0, bottom = 0, right = 0, top = 0] of each.boxes) {
        if (x < left || x > right || y < bottom || y > top) continue;
        const area = (right - left) * (top - bottom);
        if (!best || area < best.area) best = { at, area };
      }
    });
    onPoint(best?.at);
  }

  const step = (by: number) => {
    const next = by > 0 ? ZOOMS.find((z) => z > zoom * 1.01) : ZOOMS.findLast((z) => z < zoom * 0.99);
    if (next) setZoom(next);
  };
  return (
    <section
      className="document-stage"
      aria-label="Document"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        take(event.dataTransfer.files[0]);
      }}
    >
      <header>
        <Select
          size="small"
          displayEmpty
          value={document?.id ?? ""}
          inputProps={{ "aria-label": "Document" }}
          onChange={(event) => onDocument(Number(event.target.value))}
        >
          {documents.length === 0 && <MenuItem value="">No document yet</MenuItem>}
          {documents.map((each) => (
            <MenuItem key={each.id} value={each.id}>
              {each.name}
            </MenuItem>
          ))}
        </Select>
        <span className="answers">
          <button type="button" className="quiet-button" onClick={() => input.current?.click()}>
            {bringIn.isPending ? "Reading it" : "Import a PDF"}
          </button>
          {document && (
            <button
              type="button"
              className="quiet-button"
              onClick={() => confirm(`Remove '${document.name}'?`) && remove.mutate(document.id)}
            >
              Remove
            </button>
          )}
        </span>
        <input
          ref={input}
          type="file"
          hidden
          accept=".pdf"
          aria-label="A document as a PDF"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            take(file);
          }}
        />
      </header>
      {(bringIn.error ?? remove.error) && (
        <p className="notice" role="alert">
          {(bringIn.error ?? remove.error)?.message}
        </p>
      )}
      {failed === source && source && (
        <p className="notice" role="alert">
          This page cannot be shown this way: look at the lines that are refused below, or at the page as it
          came.
        </p>
      )}
      <div className="page-scroll" ref={frame}>
        {document && size && source && (
          // biome-ignore lint/a11y/useKeyWithClickEvents: every object is a line of the table, which keys reach.
          // biome-ignore lint/a11y/noStaticElementInteractions: as above
          <div className="page" style={{ width: size[0] * zoom, height: size[1] * zoom }} onClick={pointed}>
            <img src={source} alt={`Page ${page} of ${document.name}`} onError={() => setFailed(source)} />
            {marked.flatMap((each) =>
              each.boxes.map(([left = 0, bottom = 0, right = 0, top = 0]) => (
                <i
                  key={`${each.at} ${left} ${bottom} ${right}`}
                  className="page-mark"
                  style={{
                    left: left * zoom,
                    top: (size[1] - top) * zoom,
                    width: Math.max(3, (right - left) * zoom),
                    height: Math.max(3, (top - bottom) * zoom),
                  }}
                />
              )),
            )}
          </div>
        )}
        {documents.length === 0 && <p>Drop a PDF here, or import one, to see what an output does with it.</p>}
      </div>
      <div className="stage-choices">
        <Choice<Look>
          bare
          label="What is shown"
          value={look}
          options={[
            ["came", "As it came"],
            ["prints", "As it prints"],
            ["plate", "Plates"],
          ]}
          onChange={setLook}
        />
        {look === "plate" && (
          <Choice
            bare
            label="Plate"
            value={plate}
            options={Object.entries(PLATES).map(([letter, name]) => [name, letter] as const)}
            onChange={setPlate}
          />
        )}
        <span className="stepper">
          <button type="button" aria-label="Smaller" onClick={() => step(-1)}>
            −
          </button>
          <output>{Math.round(zoom * 100)} %</output>
          <button type="button" aria-label="Larger" onClick={() => step(1)}>
            +
          </button>
          <button type="button" aria-pressed={chosenZoom === undefined} onClick={() => setZoom(undefined)}>
            Fit
          </button>
        </span>
        {document && (
          <span className="stepper">
            <button
              type="button"
              aria-label="Page before"
              disabled={page <= 1}
              onClick={() => onPage(page - 1)}
            >
              ‹
            </button>
            <output>
              Page {page} / {document.pages}
            </output>
            <button
              type="button"
              aria-label="Next page"
              disabled={page >= document.pages}
              onClick={() => onPage(page + 1)}
            >
              ›
            </button>
          </span>
        )}
      </div>
    </section>
  );
}
