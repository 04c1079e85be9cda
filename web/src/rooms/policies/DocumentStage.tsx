import "./DocumentStage.css";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useEffect, useMemo, useRef, useState } from "react";
import {
  type Decisions,
  type Output,
  type PageInks,
  type PdfDocument,
  useDocumentActions,
  usePageInks,
} from "../../api/policyQueries";
import { counted, fixed, percent } from "../../shared/figures";
import { Choice } from "../../shared/ui/Choice";
import { FileInput } from "../../shared/ui/FileInput";
import { DocumentFacts } from "./DocumentFacts";
import { frameOf, type PageFrame, seen } from "./frame";
import { PageThumbnails } from "./PageThumbnails";
import { type Marked, PageView } from "./PageView";

type Look = "came" | "prints" | "plate" | "coverage" | "ticket";
/** Around a page that is fitted in. */
const MARGIN = 8;
/** Millimeters to a point. */
const MM = 25.4 / 72;
const ZOOMS = [0.25, 0.5, 0.75, 1, 1.5, 2, 3, 4, 6, 8];

interface Props {
  /** Undefined until they have come: then nobody can say that there is none. */
  documents: PdfDocument[] | undefined;
  document: PdfDocument | undefined;
  output: Output | undefined;
  page: number;
  row: number | undefined;
  record: number | undefined;
  decisions: Decisions | undefined;
  /** The line of a comparison that is looked at. */
  differing: Marked | undefined;
  onDocument: (id: number) => void;
  onPage: (page: number) => void;
  onPoint: (record: number | undefined) => void;
}

/** A page as it came, as it prints, or plate by plate, with the objects of a row or of a line of the table marked. */
export function DocumentStage(props: Props) {
  const { documents, document, output, page, row, record, decisions, differing } = props;
  const { onDocument, onPage, onPoint } = props;
  const { bringIn, remove } = useDocumentActions();
  const [look, setLook] = useState<Look>("prints");
  const [plate, setPlate] = useState("Black");
  const [chosenZoom, setZoom] = useState<number>();
  const [room, setRoom] = useState<[number, number]>([640, 480]);
  const scroll = useRef<HTMLDivElement>(null);
  const [about, setAbout] = useState(false);
  const [failed, setFailed] = useState<string>();
  const input = useRef<HTMLInputElement>(null);
  const take = (file: File | undefined) =>
    file && bringIn.mutate(file, { onSuccess: (come) => onDocument(come.document.id) });
  const frame = document && frameOf(document, page);
  // The whole page, until somebody asks for another size.
  const fit = frame ? Math.min((room[0] - MARGIN) / frame.width, (room[1] - MARGIN) / frame.height, 4) : 1;
  const zoom = chosenZoom ?? Math.max(0.1, fit);
  useEffect(() => {
    if (!scroll.current) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setRoom([entry.contentRect.width, entry.contentRect.height]);
    });
    watch.observe(scroll.current);
    return () => watch.disconnect();
  }, []);
  const inkwise = look === "plate" || look === "coverage";
  const inks = usePageInks(document, page, output, inkwise);
  const shownPlate = inks.data?.inks.some((each) => each.name === plate)
    ? plate
    : (inks.data?.inks.at(-1)?.name ?? plate);
  // A look that this output does not have falls back to the print.
  const shownLook = look === "ticket" && (!output || output.ticket_right) ? "prints" : look;
  const asked = {
    look: shownLook,
    output: String(output?.id ?? 0),
    plate: shownLook === "plate" ? shownPlate : "",
    v: String(output?.version ?? 0),
  };
  const looked = `${document?.id} ${page} ${Object.values(asked).join(" ")}`;
  const marked: Marked[] = differing
    ? [differing]
    : (decisions?.records ?? []).flatMap((each, at) =>
        each.page === page &&
        (at === record || (row !== undefined && each.row === row + 1 && record === undefined))
          ? [{ key: String(at), boxes: each.boxes }]
          : [],
      );
  const refused = useMemo(() => {
    const found = new Map<number, number>();
    for (const each of decisions?.records ?? [])
      if (each.done === "refused") found.set(each.page, (found.get(each.page) ?? 0) + each.times);
    return found;
  }, [decisions]);

  /** The smallest object under the pointer, of equal ones the last, as the line of the table that tells of it. */
  function pointed(at: PageFrame, x: number, y: number) {
    let best: { at: number; area: number } | undefined;
    decisions?.records.forEach((each, index) => {
      if (each.page !== page) return;
      for (const box of each.boxes) {
        const [left, top, width, height] = seen(at, box);
        if (x < left || x > left + width || y < top || y > top + height) continue;
        if (!best || width * height <= best.area) best = { at: index, area: width * height };
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
          {documents?.length === 0 && <MenuItem value="">No document yet</MenuItem>}
          {documents?.map((each) => (
            <MenuItem key={each.id} value={each.id}>
              {each.name}
            </MenuItem>
          ))}
        </Select>
        <span className="answers">
          {document && (
            <button
              type="button"
              className="quiet-button"
              aria-expanded={about}
              onClick={() => setAbout(!about)}
            >
              {about ? "Back to the page" : "About this document"}
            </button>
          )}
          <button type="button" className="quiet-button" onClick={() => input.current?.click()}>
            {bringIn.isPending ? "Reading it" : "Import a PDF"}
          </button>
          {document && (
            <button type="button" className="quiet-button" onClick={() => remove.mutate(document.id)}>
              Remove
            </button>
          )}
        </span>
        <FileInput at={input} label="A document as a PDF" accept=".pdf" onFile={take} />
      </header>
      {(bringIn.error ?? remove.error) && (
        <p className="notice" role="alert">
          {(bringIn.error ?? remove.error)?.message}
        </p>
      )}
      {failed === looked && (
        <p className="notice" role="alert">
          This page cannot be shown this way: look at the lines that are refused below, or at the page as it
          came.
        </p>
      )}
      <div className="stage-middle">
        {document && document.pages > 1 && (
          <PageThumbnails document={document} page={page} refused={refused} onPage={onPage} />
        )}
        <div className="page-scroll" ref={scroll}>
          {document && about && <DocumentFacts document={document} />}
          {document && !about && (
            <PageView
              key={looked}
              document={document}
              page={page}
              zoom={zoom}
              look={asked}
              marks={marked}
              spot={shownLook === "coverage" ? (inks.data?.at as [number, number] | undefined) : undefined}
              mirrored={shownLook === "ticket" && output?.reads_mirrored}
              onPoint={pointed}
              onFailed={() => setFailed(looked)}
            />
          )}
          {documents?.length === 0 && (
            <p className="notice">Drop a PDF here, or import one, to see what an output does with it.</p>
          )}
        </div>
      </div>
      <div className="stage-choices">
        <Choice<Look>
          bare
          label="What is shown"
          value={shownLook}
          options={[
            ["came", "As it came"],
            ["prints", "As it prints"],
            ["plate", "Plates"],
            ["coverage", "Coverage"],
            ...(output && !output.ticket_right ? [["ticket", "By its ticket"] as const] : []),
          ]}
          onChange={setLook}
        />
        {shownLook === "plate" && inks.data && (
          <Select
            size="small"
            value={shownPlate}
            inputProps={{ "aria-label": "Plate" }}
            onChange={(event) => setPlate(event.target.value)}
          >
            {inks.data.inks.map((ink) => (
              <MenuItem key={ink.name} value={ink.name}>
                {ink.name}, covers {percent(ink.mean_percent, 1)}
              </MenuItem>
            ))}
          </Select>
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
        {inkwise && <InkWords inks={inks.data} error={inks.error?.message} coverage={look === "coverage"} />}
        {shownLook === "came" && document && <span className="soft">{guessInWords(document)}</span>}
        {shownLook === "ticket" && output && (
          <span className="soft">{output.verdicts.map((each) => each.said).join(" ")}</span>
        )}
      </div>
    </section>
  );
}

/** What stands on the plates of a page: the largest total, its limit, and what was no ink. */
function InkWords({
  inks,
  error,
  coverage,
}: {
  inks: PageInks | undefined;
  error: string | undefined;
  coverage: boolean;
}) {
  if (error) return <span className="notice">{error}</span>;
  if (!inks) return <span className="soft">Drawing every plate</span>;
  const [x = 0, y = 0] = inks.at;
  return (
    <span className="soft">
      Largest total <b>{percent(inks.largest_percent)}</b>
      {inks.limit_percent !== null && ` of ${percent(inks.limit_percent)}`}
      {coverage && `, ${fixed(x * MM)} mm from the left, ${fixed(y * MM)} mm from the top`}
      {inks.guessed.length > 0 && `; no inks, converted here: ${inks.guessed.join(", ")}`}
    </span>
  );
}

/** What looking at a document as it came is worth: how far guesses about its plain numbers are apart. */
function guessInWords(document: PdfDocument): string {
  const guess = document.facts.guesses;
  if (!guess) return "Numbers without a profile are shown as a viewer guesses them.";
  if (guess.colors === null) return "No RGB without a profile: nothing of it is a guess.";
  const pictures = guess.pictures ? `${counted(guess.pictures, "picture")} and ` : "";
  if (!guess.colors)
    return `${guess.pictures} of its pictures have no profile, and are shown as a viewer guesses.`;
  return (
    `A guess: ${pictures}${counted(guess.colors, "color")} without a profile; read as ` +
    `${guess.between.join(", ")}, colors are ΔE00 ${fixed(guess.mean)} apart, at the most ${fixed(guess.largest)}.`
  );
}
