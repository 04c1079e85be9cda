import type { Artwork, Condition, Recipe } from "../../api/client";
import { useHits } from "../../api/queries";
import { fixed, percent } from "../../shared/figures";
import { Triple } from "./PinTable";
import type { ViewState } from "./useViewState";

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe | undefined;
  viewState: ViewState;
}

/** Families of colors that the print misses by most; a press on one hatches it on the picture. */
export function HitTable({ artwork, condition, recipe, viewState }: Props) {
  const hits = useHits(artwork.id, condition.slug, recipe, viewState.marks.tolerance, true);
  if (hits.error) return <p className="notice">{hits.error.message}</p>;
  if (!hits.data) return <p className="soft strip-note">Looking for the largest errors</p>;
  if (hits.data.length === 0)
    return (
      <p className="soft strip-note">No color is further than {fixed(viewState.marks.tolerance)} ΔE00 off.</p>
    );
  return (
    <div className="pins" data-stale={hits.isPlaceholderData}>
      <table>
        <thead>
          <tr>
            <th>Wanted, printed</th>
            <th>Wanted L*a*b*</th>
            <th>Printed L*a*b*</th>
            <th title="Between wanted and printed, media-relative D50">ΔE00 mean</th>
            <th>Largest</th>
            <th>Of the artwork</th>
          </tr>
        </thead>
        <tbody>
          {hits.data.map(({ family, wanted_swatch, printed_swatch }, row) => {
            const shown =
              viewState.mark === "family" &&
              viewState.family?.lab.every(
                (value, index) => Math.abs(value - (family.wanted_lab[index] ?? 0)) < 0.06,
              );
            return (
              <tr key={family.wanted_lab.join()}>
                <td>
                  <span className="swatch wide" style={{ background: wanted_swatch }} />
                  <span className="swatch wide last" style={{ background: printed_swatch }} />
                  <button
                    type="button"
                    className="quiet-button"
                    aria-pressed={shown}
                    aria-label={`${shown ? "hide" : "show"} family ${row + 1} on the picture`}
                    onClick={() =>
                      shown
                        ? viewState.showFamily(undefined)
                        : viewState.showFamily(family.wanted_lab, family.radius)
                    }
                  >
                    {shown ? "hide" : "show"}
                  </button>
                </td>
                <td>
                  <Triple values={family.wanted_lab} />
                </td>
                <td>
                  <Triple values={family.printed_lab} />
                </td>
                <td className="strong">{fixed(family.delta_e_mean)}</td>
                <td>{fixed(family.delta_e_worst)}</td>
                <td>{percent(family.share * 100, 1)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
