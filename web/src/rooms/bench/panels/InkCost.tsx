import "./InkCost.css";
import { Link } from "react-router";
import type { Artwork, Condition, InkFigures } from "../../../api/client";
import { fixed } from "../../../shared/figures";
import { inkName } from "../../../shared/inks";
import { NumberField } from "../../../shared/ui/NumberField";

interface Props {
  artwork: Artwork;
  condition: Condition;
  figures: InkFigures | undefined;
  copies: number;
  onCopies: (copies: number) => void;
}

/** Grams of each ink and money for so many copies. */
export function InkCost({ artwork, condition, figures, copies, onCopies }: Props) {
  const cost = figures?.cost;
  if (!artwork.resolution_ppi)
    return (
      <p className="soft">Without a resolution the artwork has no size, so that no ink can be weighed.</p>
    );
  if (!cost) return null;
  const known = Object.keys(cost.grams);
  const size = `${fixed((artwork.width / artwork.resolution_ppi) * 25.4, 0)} × ${fixed((artwork.height / artwork.resolution_ppi) * 25.4, 0)} mm`;
  return (
    <section className="ink-cost">
      <div className="head-line">
        <h3>Ink and cost</h3>
        <span>
          <NumberField
            label="Copies"
            className="field"
            value={copies}
            min={1}
            max={10_000_000}
            whole
            onKeep={(count) => onCopies(count ?? copies)}
          />{" "}
          {copies === 1 ? "copy" : "copies"} of {size}
        </span>
      </div>
      {known.length > 0 ? (
        <p>
          {known.map((ink) => `${inkName(ink)} ${weight(cost.grams[ink] ?? 0)}`).join(" · ")}
          <br />
          <b>
            {fixed(cost.total_money, 2)} {cost.currency}
          </b>
          <span className="soft">
            : ink {fixed(cost.total_money - cost.medium_money, 2)}, medium {fixed(cost.medium_money, 2)}
          </span>
        </p>
      ) : (
        <p className="soft">
          Nothing is said yet of what its inks take and cost.{" "}
          <Link to={`/conditions/${condition.slug}`}>Say it at the condition</Link>
        </p>
      )}
      {known.length > 0 && cost.unknown.length > 0 && (
        <p className="soft">Not counted: {cost.unknown.map(inkName).join(", ")}.</p>
      )}
    </section>
  );
}

const weight = (grams: number) =>
  grams >= 1000 ? `${fixed(grams / 1000, 2)} kg` : `${fixed(grams, grams < 10 ? 2 : 0)} g`;
