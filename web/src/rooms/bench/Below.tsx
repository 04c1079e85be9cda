import type { ReactNode } from "react";
import type { Look, Strip } from "./useLook";

const STRIPS: [Strip, string][] = [
  ["pins", "Pins"],
  ["hits", "Largest errors"],
  ["palette", "Palette"],
];

/** What stands below the picture: pins, the colors hit hardest, or a palette. */
export function Below({ look, children }: { look: Look; children: ReactNode }) {
  return (
    <section className="below" aria-label={STRIPS.find(([strip]) => strip === look.strip)?.[1]}>
      <div className="tabs" role="toolbar" aria-label="Below the picture">
        {STRIPS.map(([strip, name]) => (
          <button
            key={strip}
            type="button"
            className="tab"
            aria-pressed={look.strip === strip}
            onClick={() => look.showStrip(strip)}
          >
            {name}
          </button>
        ))}
      </div>
      {children}
    </section>
  );
}
