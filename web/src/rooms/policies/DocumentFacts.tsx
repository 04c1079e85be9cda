import "./DocumentFacts.css";
import type { PdfDocument } from "../../api/policyQueries";
import { bytes, counted, moment } from "../../shared/figures";

/** All that is known of a document before anything is done with it. */
export function DocumentFacts({ document }: { document: PdfDocument }) {
  const { facts } = document;
  const spots = Object.entries(facts.spots);
  const lines: [string, string][] = [
    [
      "File",
      `${bytes(document.bytes)}, ${counted(document.pages, "page")}, taken in ${moment(document.taken_in_at)}`,
    ],
  ];
  if (facts.version) {
    const says = facts.says_it_is ? `, says it is ${facts.says_it_is}` : "";
    lines.push(["Written as", `PDF ${facts.version}${says}`]);
    for (const [box, sizes] of Object.entries(facts.boxes))
      lines.push([box, sizes.map((size) => `${size.width_mm} × ${size.height_mm} mm`).join(", ")]);
    lines.push([
      "Output intent",
      facts.output_intents
        .map((each) => [each.condition || each.info, each.profile].filter(Boolean).join(", "))
        .join("; ") || "none",
    ]);
    lines.push([
      "Spots",
      spots.map(([name, spot]) => `${name} (${spot.objects} objects, as ${spot.comes_down_to})`).join(", ") ||
        "none",
    ]);
    lines.push([
      "Overprint",
      facts.overprint.objects
        ? `${facts.overprint.objects} objects${facts.overprint.white ? `, ${facts.overprint.white} of them white: they vanish` : ""}`
        : "none",
    ]);
    const seen = facts.transparency;
    lines.push([
      "Transparency",
      seen.see_through + seen.masked > 0
        ? `${seen.see_through} see-through, ${seen.masked} masked objects`
        : "none",
    ]);
    lines.push(["Pictures", String(facts.pictures.length)]);
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
      {Object.entries(facts.standards).map(([standard, found]) => (
        <div key={standard}>
          <h3>{found.against.length ? `Against ${standard}` : `Nothing found against ${standard}`}</h3>
          <ul>
            {found.against.map((each) => (
              <li key={each.asks}>
                {each.asks}: <b>{each.said}</b> <span className="soft">({each.clause})</span>
              </li>
            ))}
          </ul>
          <p className="soft">Not looked at: {found.not_looked_at.join("; ")}.</p>
        </div>
      ))}
    </section>
  );
}
