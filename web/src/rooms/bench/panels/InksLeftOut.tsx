import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import type { InkFigures } from "../../../api/client";
import { useLoss } from "../../../api/queries";
import { fixed, percent } from "../../../shared/figures";
import { SettingName } from "../../../shared/ui/SettingName";
import { useSettled } from "../useSettled";
import type { PanelProps } from "./PanelProps";

/** Inks taken out of the separation, the others making up for them, and what that costs. */
export function InksLeftOut(props: PanelProps & { figures: InkFigures | undefined }) {
  const { artwork, condition, recipe, control, viewState } = props;
  const { without } = recipe.ink;
  const settled = useSettled(recipe, 150);
  const loss = useLoss(artwork.id, condition.slug, settled, viewState.marks.tolerance);
  return (
    <>
      <div className="setting wide">
        <SettingName name="Inks not used" />
        <ToggleButtonGroup
          aria-label="Inks not used"
          value={without}
          onChange={(_, inks: string[]) => {
            // One ink at least has to print.
            const kept = condition.inks.filter((ink) => inks.includes(ink));
            if (kept.length < condition.inks.length)
              control.keep({ ...recipe, ink: { ...recipe.ink, without: kept } });
          }}
        >
          {condition.inks.map((ink) => (
            <ToggleButton key={ink} value={ink} aria-label={`Do without ${ink}`}>
              {ink}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </div>
      {without.length > 0 && (
        <p className="notice" data-stale={loss.isPlaceholderData}>
          {loss.data
            ? `Without ${without.join(", ")}: ΔE00 ${fixed(loss.data.mean)} mean, ${fixed(loss.data.worst)} largest, ${percent(loss.data.share * 100, 1)} of the artwork is not held.`
            : (loss.error?.message ?? "Computing what that loses")}{" "}
          <button
            type="button"
            className="quiet-button"
            aria-pressed={viewState.mark === "loss"}
            onClick={() => viewState.showMark("loss")}
          >
            {viewState.mark === "loss" ? "Hide the marks" : "Mark it"}
          </button>
        </p>
      )}
    </>
  );
}
