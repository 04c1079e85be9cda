import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Artwork = Schemas["ArtworkOut"];
export type Condition = Schemas["ConditionOut"];
export type Run = Schemas["RunOut"];
export type Pin = Schemas["PinOut"];
export type Readout = Schemas["Readout"];
export type Session = Schemas["SessionOut"];
export type BlackPolicy = Schemas["BlackPolicy"];
export type Differences = Schemas["Differences"];
export type InkFigures = Schemas["InkFigures"];
export type RenderRequest = Schemas["ViewIn"];
export type PictureWindow = Schemas["WindowIn"];
export type Intent = Schemas["AimStation"]["intent"];
export type Adjustment = Schemas["Adjustment"];
export type NamedAdjustment = Schemas["AdjustmentOut"];
export type Gamut = Schemas["Gamut"];
export type Cloud = Schemas["Cloud"];
export type ToneTable = Schemas["ToneTable"];
export type HueMove = Schemas["HueMove"];
export type Region = Schemas["Region"];
export type InkPlate = Schemas["InkPlate"];
export type Film = Schemas["FilmSettings"];
export type CurvePoints = [number, number][];
export type HouseRules = Schemas["HouseRules"];
export type RuleSet = Schemas["RuleSetOut"];
export type StoredProfile = Schemas["ProfileOut"];
export type ArtworkVersion = Schemas["VersionOut"];
export type NewVersion = Schemas["VersionIn"];
export type Hit = Schemas["HitOut"];
export type PaletteRow = Schemas["PaletteOut"];
export type Loss = Schemas["Loss"];
export type Recipe = Schemas["Recipe"];
export type RecipeState = Schemas["RecipeStateOut"];

/** What the server refused, in its own words. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** Said on the window when the session has ended: the house asks to sign in, and everything goes on where it was. */
export const SIGNED_OUT = "plinto:signed-out";

/** Whether trying again may help: the server was not there, was busy, was full, or wants to know who asks. */
export const isPassing = (error: unknown): boolean =>
  error instanceof Refused && (error.status === 0 || error.status === 401 || error.status >= 500);

export function csrfToken(): string {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

const UNREACHED = "The server cannot be reached. Check that it runs, then try again.";

/** Sent to the window when something was removed; the server keeps it for a while. */
export const REMOVED = "plinto-removed";

function removes(request: Request): boolean {
  const path = new URL(request.url).pathname;
  return (request.method === "DELETE" && path !== "/api/session") || path === "/api/artworks/shelf/remove";
}

export const api = createClient<paths>({
  baseUrl: "/",
  credentials: "same-origin",
  fetch: (request) => {
    request.headers.set("X-CSRFToken", csrfToken());
    return fetch(request).then(
      (answer) => {
        if (answer.ok && removes(request)) window.dispatchEvent(new Event(REMOVED));
        return answer;
      },
      (cause) => {
        if (cause instanceof DOMException && cause.name === "AbortError") throw cause;
        throw new Refused(UNREACHED, 0);
      },
    );
  },
});

export function detailOf(body: unknown, status: number): Refused {
  if (status === 401) window.dispatchEvent(new Event(SIGNED_OUT));
  const detail = (body as { detail?: unknown } | undefined)?.detail;
  if (typeof detail === "string") return new Refused(detail, status);
  if (Array.isArray(detail))
    return new Refused(detail.map((part) => (part as { msg?: string }).msg ?? "").join(" "), status);
  return new Refused(`The server answered ${status}. Try again; its log says more.`, status);
}

/** The data of an answer, or what was refused as an error. */
export async function taken<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer;
  if (!response.ok) throw detailOf(error, response.status);
  return data as T;
}

/** Upload with progress, which fetch does not report. */
export function upload<T = Artwork>(
  file: File,
  onProgress: (share: number) => void,
  address = "/api/artworks",
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", address);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.responseType = "json";
    request.upload.onprogress = (event) => event.lengthComputable && onProgress(event.loaded / event.total);
    request.onerror = () => reject(new Refused(UNREACHED, 0));
    request.onload = () =>
      request.status >= 200 && request.status < 300
        ? resolve(request.response as T)
        : reject(detailOf(request.response, request.status));
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}

/** Bytes in a millisecond, as the pictures of late came through; unknown before the first. */
let rate: number | undefined;
let usual = 400_000;
/** Beyond this an exact picture takes so long that a sketch is worth asking for first. */
const PATIENCE_MS = 450;

/** Whether the line is so thin that a sketch comes before the exact picture. */
export function isThinLine(): boolean {
  const told = (navigator as { connection?: { downlink?: number } }).connection?.downlink;
  // Mbit/s are 125 bytes in a millisecond; browsers tell it in steps, and before anything was measured.
  const guess = rate ?? (told === undefined ? undefined : told * 125);
  return guess !== undefined && usual / guess > PATIENCE_MS;
}

interface PictureAsked {
  recipe: Recipe;
  view: RenderRequest;
  window: PictureWindow;
}

export async function fetchPicture(
  artworkId: number,
  slug: string,
  asked: PictureAsked,
  signal?: AbortSignal,
  sketch = false,
): Promise<ImageBitmap> {
  const path = { artwork_id: artworkId, slug };
  const stream = (await taken(
    api.POST("/api/bench/{artwork_id}/{slug}/picture", {
      params: { path },
      body: { ...asked, sketch },
      parseAs: "stream",
      signal,
    }),
  )) as unknown as ReadableStream<Uint8Array>;
  const began = performance.now();
  const blob = await new Response(stream).blob();
  const took = performance.now() - began;
  // What came in one piece says nothing of the line.
  if (blob.size > 20_000 && took > 4) rate = blob.size / took;
  if (!sketch) usual = blob.size;
  return createImageBitmap(blob, { colorSpaceConversion: "none" });
}
