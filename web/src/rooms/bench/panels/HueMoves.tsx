import Button from "@mui/material/Button";
import type { HueMove, Readout } from "../../../api/client";
import { fixed } from "../../../shared/figures";
import { SliderSetting } from "../../../shared/ui/SliderSetting";

const NAMES: [string, number][] = [
  ["Reds", 30],
  ["Yellows", 90],
  ["Greens", 145],
  ["Cyans", 210],
  ["Blues", 275],
  ["Magentas", 345],
];

interface Props {
  hues: HueMove[];
  pointer: Readout | undefined;
  onMove: (hues: HueMove[]) => void;
  onRest: (hues: HueMove[]) => void;
}

const SETTINGS = [
  ["Hue", "shift_deg", 60, "°"],
  ["Lightness", "lightness", 40, " L*"],
  ["Chroma", "chroma_percent", 100, " %"],
] as const;

/** Moves of single hue ranges: turned, lightened, strengthened. */
export function HueMoves({ hues, pointer, onMove, onRest }: Props) {
  const add = (center_deg: number) =>
    onRest([...hues, { center_deg, width_deg: 60, shift_deg: 0, lightness: 0, chroma_percent: 0 }]);
  const changed = (index: number, part: Partial<HueMove>) =>
    hues.map((move, each) => (each === index ? { ...move, ...part } : move));
  const at = pointer && Math.hypot(pointer.source_lab[1] ?? 0, pointer.source_lab[2] ?? 0) > 5;
  const hue = pointer
    ? ((Math.atan2(pointer.source_lab[2] ?? 0, pointer.source_lab[1] ?? 0) * 180) / Math.PI + 360) % 360
    : 0;
  return (
    <section>
      <h3>Hue ranges{at ? `, pointer at ${fixed(hue, 0)}°` : ""}</h3>
      {hues.map((move, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: moves have no other name
        <div key={index} className="hue-move">
          <div className="head-line">
            <span className="strong">
              <span className="swatch" style={{ background: `lch(65% 60 ${move.center_deg})` }} />{" "}
              {fixed(move.center_deg, 0)}° ± {fixed(move.width_deg / 2, 0)}°
            </span>
            <button
              type="button"
              className="quiet-button"
              onClick={() => onRest(hues.filter((_, each) => each !== index))}
            >
              Take off
            </button>
          </div>
          {SETTINGS.map(([label, field, most, unit]) => (
            <SliderSetting
              key={field}
              label={label}
              value={move[field]}
              min={-most}
              max={most}
              text={`${move[field] > 0 ? "+" : ""}${fixed(move[field], 0)}${unit}`}
              onMove={(value) => onMove(changed(index, { [field]: value }))}
              onRest={(value) => onRest(changed(index, { [field]: value }))}
            />
          ))}
          <SliderSetting
            label="Range"
            value={move.width_deg}
            min={10}
            max={180}
            text={`${fixed(move.width_deg, 0)}°`}
            onMove={(width_deg) => onMove(changed(index, { width_deg }))}
            onRest={(width_deg) => onRest(changed(index, { width_deg }))}
          />
        </div>
      ))}
      <div className="answers">
        {NAMES.map(([name, center]) => (
          <Button key={name} disabled={hues.length >= 12} onClick={() => add(center)}>
            {name}
          </Button>
        ))}
      </div>
    </section>
  );
}
