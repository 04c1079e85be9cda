import type { PdfDocument } from "../../api/policyQueries";
import { bytes, counted, moment } from "../../shared/figures";

interface Against {
  asks: string;
  clause: string;
  said: string;
}

/** What inspecting a document said; a large one is opened without being walked, and says less. */
interface Facts {
  version?: string;
  "boxes mm"?: Record<string, [number, number][]>;
  "output intents"?: { condition: string; info: string; profile?: string }[];
  spots?: Record<string, { objects: number; pages: number; "comes down to": string }>;
  pictures?: { least_ppi?: number }[];
  overprint?: { objects: number; white: number };
  transparency?: { "see-through objects": number; "masked objects": number };
  layers?: number;
  "says it is"?: string;
  "PDF/X"?: Record<string, { against: Against[]; "not looked at": string[] }>;
}

/** All that is known of a document before anything is done with it. */
export function DocumentFacts({ document }: { document: PdfDocument }) {
  const facts = document.facts as Facts;
  const intents = facts["output intents"] ?? [];
  const spots = Object.entries(facts.spots ?? {});
  const lines: [string, string][] = [
    [
      "File",
      `${bytes(document.bytes)}, ${counted(document.pages, "page")}, taken in ${moment(document.taken_in_at)}`,
    ],
  ];
  if (facts.version) {
    const says = facts["says it is"];
    lines.push(["Written as", `PDF ${facts.version}${says ? `, says it is ${says}` : ""}`]);
    for (const [box, sizes] of Object.entries(facts["boxes mm"] ?? {}))
      lines.push([box, sizes.map(([width, height]) => `${width} × ${height} mm`).join(", ")]);
    lines.push([
      "Output intent",
      intents
        .map((each) => [each.condition || each.info, each.profile].filter(Boolean).join(", "))
        .join("; ") || "none",
    ]);
    lines.push([
      "Spots",
      spots
        .map(([name, spot]) => `${name} (${spot.objects} objects, as ${spot["comes down to"]})`)
        .join(", ") || "none",
    ]);
    lines.push([
      "Overprint",
      facts.overprint?.objects
        ? `${facts.overprint.objects} objects${facts.overprint.white ? `, ${facts.overprint.white} of them white: they vanish` : ""}`
        : "none",
    ]);
    const seen = facts.transparency;
    lines.push([
      "Transparency",
      seen && seen["see-through objects"] + seen["masked objects"] > 0
        ? `${seen["see-through objects"]} see-through, ${seen["masked objects"]} masked objects`
        : "none",
    ]);
    lines.push(["Pictures", String(facts.pictures?.length ?? 0)]);
    if (facts.layers) lines.push(["Layers", String(facts.layers)]);
  }
  return (
    <section className="document-facts" aria-label="About this document">
      <dl>
        {lines.map(([word, told]) => (
          <div key={word}>
            <dt>{word}</dt>
            <dd>{told}</dd>
          </div>
        ))}
      </dl>
      {!facts.version && <p className="soft">Large: its colors are read when an output is chosen.</p>}
      {Object.entries(facts["PDF/X"] ?? {}).map(([standard, found]) => (
        <div key={standard}>
          <h3>{found.against.length ? `Against ${standard}` : `Nothing found against ${standard}`}</h3>
          <ul>
            {found.against.map((each) => (
              <li key={each.asks}>
                {each.asks}: <b>{each.said}</b> <span className="soft">({each.clause})</span>
              </li>
            ))}
          </ul>
          <p className="soft">Not looked at: {found["not looked at"].join("; ")}.</p>
        </div>
      ))}
    </section>
  );
}
