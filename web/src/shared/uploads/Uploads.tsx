import "./Uploads.css";
import LinearProgress from "@mui/material/LinearProgress";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Run } from "../../api/client";
import { useRuns } from "../../api/queries";
import { counted, percent, whole } from "../figures";
import {
  type Arrival,
  addFiles,
  dismiss,
  dropWaiting,
  isUploading,
  onTaken,
  tell,
  useArrivals,
  useTogether,
} from "./uploads";

/** More are told of together. */
const MOST_LINES = 5;

/** Looks after files on their way in, in every room: what is dropped anywhere, what was opened, leaving too early. */
export function useUploads() {
  const arrivals = useArrivals();
  const runs = useRuns().data;
  const queries = useQueryClient();

  useEffect(() => onTaken(() => void queries.invalidateQueries({ queryKey: ["runs"] })), [queries]);

  useEffect(() => {
    for (const arrival of arrivals) {
      const run = runs?.find((each) => each.id === arrival.runId);
      if (arrival.state !== "opening" || !run) continue;
      if (run.state === "failed" || run.state === "cancelled")
        tell(arrival.id, run.message || `'${arrival.name}' was cancelled, and is not here.`);
      if (run.state !== "done") continue;
      dismiss(arrival.id);
      void queries.invalidateQueries({ queryKey: ["artworks"] });
      void queries.invalidateQueries({ queryKey: ["conditions"] });
    }
  }, [arrivals, runs, queries]);

  useEffect(() => {
    const asks = (event: BeforeUnloadEvent) => isUploading() && event.preventDefault();
    const over = (event: globalThis.DragEvent) => {
      // Beside a box too: otherwise the browser leaves for the file.
      if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
    };
    const dropped = (event: globalThis.DragEvent) => {
      const given = [...(event.dataTransfer?.files ?? [])];
      if (event.defaultPrevented || given.length === 0) return;
      event.preventDefault();
      addFiles(given);
    };
    window.addEventListener("beforeunload", asks);
    window.addEventListener("dragover", over);
    window.addEventListener("drop", dropped);
    return () => {
      window.removeEventListener("beforeunload", asks);
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", dropped);
    };
  }, []);
}

/** How many files are on their way in. */
export function useArriving(): number {
  return useArrivals().filter((each) => each.state !== "told").length;
}

/** Files on their way in: a few with how far each is, many as one line; and what became of those that are no artwork. */
export function UploadList() {
  const arrivals = useArrivals();
  const runs = useRuns().data;
  if (arrivals.length === 0) return null;
  const over = arrivals.filter((each) => each.state === "told");
  const coming = arrivals.filter((each) => each.state !== "told");
  const shown = [...over.slice(0, MOST_LINES), ...(coming.length > MOST_LINES ? [] : coming)];
  return (
    <ul className="uploads" aria-label="Files on their way in" aria-live="polite">
      {coming.length > MOST_LINES && <ManyComing coming={coming} />}
      {shown.map((arrival) => (
        <ArrivalLine
          key={arrival.id}
          arrival={arrival}
          run={runs?.find((each) => each.id === arrival.runId)}
        />
      ))}
      {over.length > MOST_LINES && (
        <li>
          <span className="soft">and {over.length - MOST_LINES} more</span>{" "}
          <button
            type="button"
            className="quiet-button"
            onClick={() => {
              for (const each of over) dismiss(each.id);
            }}
          >
            Dismiss all
          </button>
        </li>
      )}
    </ul>
  );
}

function ManyComing({ coming }: { coming: Arrival[] }) {
  const together = useTogether();
  const waiting = coming.filter((each) => each.state === "waiting").length;
  const done = Math.max(0, together - coming.length);
  return (
    <li>
      <span className="strong">
        {whole(done)} of {counted(together, "file")}
      </span>
      <span className="soft"> are done; {whole(coming.length - waiting)} being opened</span>{" "}
      {waiting > 0 && (
        <button type="button" className="quiet-button" onClick={dropWaiting}>
          Leave out the {whole(waiting)} not sent yet
        </button>
      )}
      <LinearProgress
        variant="determinate"
        value={(done / together) * 100}
        aria-label="Progress of all files"
      />
    </li>
  );
}

function ArrivalLine({ arrival, run }: { arrival: Arrival; run: Run | undefined }) {
  if (arrival.state === "told")
    return (
      <li>
        <span className={arrival.refused ? "notice" : ""} role={arrival.refused ? "alert" : "status"}>
          {arrival.said}
        </span>{" "}
        <button type="button" className="quiet-button" onClick={() => dismiss(arrival.id)}>
          Dismiss
        </button>
      </li>
    );
  const opening = arrival.state === "opening";
  const share = opening ? (run?.progress ?? 0) : arrival.share;
  return (
    <li>
      <span className="strong">{arrival.name}</span>
      <span className="soft"> {words(arrival, share)}</span>
      <LinearProgress
        variant={opening && share === 0 ? "indeterminate" : "determinate"}
        value={share * 100}
        aria-label={`Progress of ${arrival.name}`}
      />
    </li>
  );
}

function words(arrival: Arrival, share: number): string {
  if (arrival.state === "waiting") return "waits for the others";
  if (arrival.state === "opening")
    return share ? `is being opened, ${percent(share * 100)}` : "is being opened";
  return share < 1 ? `uploading, ${percent(share * 100)}` : "looked at";
}
