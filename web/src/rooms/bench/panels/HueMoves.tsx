import Button from "@mui/material/Button";
import { useState } from "react";
import type { HueMove, Readout } from "../../../api/client";
import { fixed } from "../../../shared/figures";
import { SliderSetting } from "../../../shared/ui/SliderSetting";
import type { Drawing } from "../useDrawing";
import type { ViewState } from "../useViewState";
import { around, HueRing } from "./HueRing";

interface Props {
  hues: HueMove[];
  histogram: number[] | undefined;
  pointer: Readout | undefined;
  drawing: Drawing;
  viewState: ViewState;
  onMove: (hues: HueMove[]) => void;
  onRest: (hues: HueMove[]) => void;
}

const MOST = 12;
const SETTINGS = [
  ["Turn", "shift_deg", 60, "°"],
  ["Lightness", "lightness", 40, " L*"],
  ["Chroma", "chroma_percent", 100, " %"],
] as const;

/** A new range that moves nothing yet. */
export const hueAt = (center_deg: number): HueMove => ({
  center_deg,
  width_deg: 60,
  shift_deg: 0,
  lightness: 0,
  chroma_percent: 0,
});

/** Moves of single hue ranges: found on the ring or on the picture, then turned, lightened, strengthened. */
export function HueMoves({ hues, histogram, pointer, drawing, viewState, onMove, onRest }: Props) {
  const [wanted, setChosen] = useState(0);
  const chosen = Math.min(wanted, hues.length - 1);
  const move = hues[chosen];
  const [a, b] = [pointer?.source_lab[1] ?? 0, pointer?.source_lab[2] ?? 0];
  const pointed = Math.hypot(a, b) > 5 ? ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360 : undefined;
  const add = (center_deg: number) => {
    onRest([...hues, hueAt(center_deg)]);
    setChosen(hues.length);
  };
  const changed = (part: Partial<HueMove>) =>
    hues.map((each, index) => (index === chosen ? { ...each, ...part } : each));
  const shown =
    viewState.mark === "hue" &&
    viewState.hue?.center_deg === move?.center_deg &&
    viewState.hue?.width_deg === move?.width_deg;
  /** Where most of the artwork is that no range reaches yet. */
  const most = () => {
    const free = (histogram ?? []).map((share, step) => {
      const deg = step * 5 + 2.5;
      const taken = hues.some(
        (each) => Math.abs(((deg - each.center_deg + 540) % 360) - 180) < each.width_deg / 2,
      );
      return taken ? 0 : share;
    });
    return around(free.indexOf(Math.max(...free, 0)) * 5 + 2);
  };
  return (
    <section>
      <h3>Hue ranges{pointed === undefined ? "" : `, pointer at ${fixed(pointed, 0)}°`}</h3>
      <HueRing
        hues={hues}
        chosen={chosen}
        histogram={histogram}
        pointed={pointed}
        onChoose={setChosen}
        onAdd={add}
        onMove={onMove}
        onRest={onRest}
      />
      <div className="answers">
        <Button
          variant={drawing.tool === "hue" ? "contained" : "outlined"}
          disabled={hues.length >= MOST}
          onClick={() => drawing.choose("hue")}
        >
          Point at the picture
        </Button>
        <Button disabled={hues.length >= MOST} onClick={() => add(most())}>
          Add a range
        </Button>
      </div>
      {drawing.tool === "hue" && <p className="notice">Press on the color whose hue is to move.</p>}
      {hues.length === 0 && (
        <p className="soft">
          Press on the ring or point at the picture for a range of hues; bars are the artwork's own colors.
        </p>
      )}
      {move && (
        <div className="hue-move">
          <div className="head-line">
            <span className="strong">
              <span className="swatch" style={{ background: `lch(65% 60 ${move.center_deg})` }} /> Range{" "}
              {chosen + 1} of {hues.length}: {fixed(move.center_deg, 0)}° ± {fixed(move.width_deg / 2, 0)}°
            </span>
            <button
              type="button"
              className="quiet-button"
              aria-label={`Remove range ${chosen + 1}`}
              onClick={() => {
                viewState.showHue(undefined);
                onRest(hues.filter((_, each) => each !== chosen));
              }}
            >
              Remove
            </button>
          </div>
          <button
            type="button"
            className="quiet-button"
            aria-pressed={shown}
            onClick={() => viewState.showHue(shown ? undefined : move)}
          >
            {shown ? "Hide what it reaches" : "Hatch what it reaches"}
          </button>
          {SETTINGS.map(([label, field, most, unit]) => (
            <SliderSetting
              key={field}
              label={label}
              value={move[field]}
              min={-most}
              max={most}
              text={`${move[field] > 0 ? "+" : ""}${fixed(move[field], 0)}${unit}`}
              onMove={(value) => onMove(changed({ [field]: value }))}
              onRest={(value) => onRest(changed({ [field]: value }))}
            />
          ))}
          <SliderSetting
            label="Width"
            value={move.width_deg}
            min={10}
            max={180}
            text={`${fixed(move.width_deg, 0)}°`}
            onMove={(width_deg) => onMove(changed({ width_deg }))}
            onRest={(width_deg) => onRest(changed({ width_deg }))}
          />
        </div>
      )}
    </section>
  );
}
