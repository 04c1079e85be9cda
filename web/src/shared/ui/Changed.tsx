import "./changes.css";
import "./Changed.css";

const MOST_LETTERS = 200;

export interface Change {
  field: string;
  before?: unknown;
  after?: unknown;
}

/** Which fields differ: as they were, struck out, and as they became. */
export function Changed({ changes }: { changes: Change[] }) {
  return (
    <ul className="changed">
      {changes.map((change) => (
        <li key={change.field}>
          {change.field.replaceAll("_", " ")}: <Difference before={change.before} after={change.after} />
        </li>
      ))}
    </ul>
  );
}

/** Fields of two values that differ, nested ones with their path, as the server tells them. */
export function changesBetween(before: object, after: object): Change[] {
  const [old, now] = [flat(before), flat(after)];
  return [...new Set([...old.keys(), ...now.keys()])]
    .sort()
    .filter((field) => JSON.stringify(old.get(field)) !== JSON.stringify(now.get(field)))
    .map((field) => ({ field, before: old.get(field), after: now.get(field) }));
}

function flat(value: object, where = ""): Map<string, unknown> {
  const found = new Map<string, unknown>();
  for (const [key, each] of Object.entries(value)) {
    const place = where ? `${where} › ${key}` : key;
    const nested =
      each !== null && typeof each === "object" && !Array.isArray(each) && Object.keys(each).length;
    if (nested) for (const [inner, leaf] of flat(each, place)) found.set(inner, leaf);
    else found.set(place, each);
  }
  return found;
}

/** Long lists are told by the places that differ. */
function Difference({ before, after }: { before: unknown; after: unknown }) {
  if (Array.isArray(before) && Array.isArray(after) && JSON.stringify(after).length > MOST_LETTERS) {
    const length = Math.max(before.length, after.length);
    const places = Array.from({ length }, (_, at) => at).filter(
      (at) => JSON.stringify(before[at]) !== JSON.stringify(after[at]),
    );
    return (
      <>
        {before.length === after.length ? "" : `${before.length} → ${after.length}, `}
        {places.map((at) => at + 1).join(", ")} changed
      </>
    );
  }
  return (
    <>
      <s>{said(before)}</s> → {said(after)}
    </>
  );
}

function said(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  return typeof value === "string" ? value : JSON.stringify(value);
}
