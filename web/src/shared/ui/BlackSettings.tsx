import type { BlackPolicy } from "../../api/client";
import { fixed, percent } from "../figures";
import { SliderSetting } from "./SliderSetting";

interface Props {
  black: BlackPolicy;
  /** What it is compared with, as a mark on each slider. */
  beside?: BlackPolicy;
  onMove: (black: BlackPolicy) => void;
  onRest: (black: BlackPolicy) => void;
}

const PERCENTS = [
  ["Black amount", "amount_percent"],
  ["Black start", "start_percent"],
  ["Black maximum", "maximum_percent"],
] as const;

/** How much black is generated, from where on, how much at most, and how it rises. */
export function BlackSettings({ black, beside, onMove, onRest }: Props) {
  return (
    <>
      {PERCENTS.map(([label, field]) => (
        <SliderSetting
          key={field}
          label={label}
          value={black[field]}
          min={0}
          max={100}
          mark={beside?.[field]}
          text={percent(black[field])}
          onMove={(value) => onMove({ ...black, [field]: value })}
          onRest={(value) => onRest({ ...black, [field]: value })}
        />
      ))}
      <SliderSetting
        label="Black shape"
        value={black.shape}
        min={0.5}
        max={4}
        step={0.1}
        mark={beside?.shape}
        text={black.shape < 1 ? `early ${fixed(black.shape)}` : fixed(black.shape)}
        onMove={(shape) => onMove({ ...black, shape })}
        onRest={(shape) => onRest({ ...black, shape })}
      />
    </>
  );
}
