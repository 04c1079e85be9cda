import { useSyncExternalStore } from "react";
import { Refused, upload } from "../../api/client";

/** A file on its way in; it goes on whichever room is looked at. */
export interface Arrival {
  id: number;
  name: string;
  bytes: number;
  /** 0…1 of its bytes. */
  share: number;
  state: "waiting" | "uploading" | "opening" | "told";
  /** The run that opens it, or makes a condition of it. */
  runId?: number;
  /** What the server said: a refusal, or that it is here already. */
  said?: string;
  refused?: boolean;
}

interface Taken {
  artwork?: { id: number } | null;
  run?: { id: number } | null;
  run_id?: number;
  said?: string;
}

/** Profiles and measurements go to the conditions, documents to the policies, everything else is taken for a picture. */
const IS_DOCUMENT = /\.pdf$/i;
const FOR_CONDITIONS = /\.(icc|icm|txt|cgats|it8|cxf|xml|csv|tsv)$/i;
const AT_ONCE = 2;

let arrivals: Arrival[] = [];
let counted = 0;
/** How many files came since there was last none on its way. */
let together = 0;
const files = new Map<number, File>();
const listeners = new Set<() => void>();
const changed = new Set<() => void>();

function write(next: Arrival[]) {
  arrivals = next;
  if (!next.some((each) => each.state !== "told")) together = 0;
  for (const listener of listeners) listener();
}

function update(id: number, change: Partial<Arrival>) {
  write(arrivals.map((each) => (each.id === id ? { ...each, ...change } : each)));
}

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const useArrivals = () => useSyncExternalStore(subscribe, () => arrivals);

/** Hear of everything that came in. */
export function onTaken(listener: () => void): () => void {
  changed.add(listener);
  return () => changed.delete(listener);
}

/** Send all of these files, each where it belongs. */
export function addFiles(given: Iterable<File>) {
  const added: Arrival[] = [];
  for (const file of given) {
    const id = ++counted;
    files.set(id, file);
    added.push({ id, name: file.name, bytes: file.size, share: 0, state: "waiting" });
  }
  together += added.length;
  write([...arrivals, ...added]);
  next();
}

export function dismiss(id: number) {
  files.delete(id);
  write(arrivals.filter((each) => each.id !== id));
}

/** Say of a file what became of it instead of artwork. */
export const tell = (id: number, said: string) => update(id, { state: "told", refused: true, said });

/** Of how many files those on their way are the rest. */
export const useTogether = () => useSyncExternalStore(subscribe, () => together);

/** Leave out what nobody has begun to send. */
export function dropWaiting() {
  const waiting = arrivals.filter((each) => each.state === "waiting");
  for (const each of waiting) files.delete(each.id);
  together -= waiting.length;
  write(arrivals.filter((each) => each.state !== "waiting"));
}

export const isUploading = () =>
  arrivals.some((each) => each.state === "waiting" || each.state === "uploading");

function next() {
  const busy = arrivals.filter((each) => each.state === "uploading").length;
  const waiting = arrivals.filter((each) => each.state === "waiting").slice(0, AT_ONCE - busy);
  for (const arrival of waiting) void send(arrival.id);
}

async function send(id: number) {
  const file = files.get(id);
  if (!file) return;
  update(id, { state: "uploading" });
  try {
    const address = IS_DOCUMENT.test(file.name)
      ? "/api/policies/documents"
      : FOR_CONDITIONS.test(file.name)
        ? "/api/conditions"
        : "/api/artworks";
    const taken = await upload<Taken>(file, (share) => update(id, { share }), address);
    const runId = taken.run?.id ?? taken.run_id;
    if (runId) update(id, { state: "opening", share: 1, runId });
    else update(id, { state: "told", share: 1, said: taken.said });
    for (const listener of changed) listener();
  } catch (cause) {
    const said = cause instanceof Refused ? cause.message : `'${file.name}' could not be read here.`;
    update(id, { state: "told", refused: true, said });
  }
  files.delete(id);
  next();
}
