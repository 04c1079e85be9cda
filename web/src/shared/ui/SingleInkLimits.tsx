import { useState } from "react";
import type { Recipe } from "../../api/client";
import { percent } from "../figures";
import { inkName } from "../inks";
import { SliderSetting } from "./SliderSetting";

type Limits = Recipe["ink"]["limits"];

interface Props {
  inks: string[];
  limits: Limits;
  onMove: (limits: Limits) => void;
  onRest: (limits: Limits) => void;
}

/** The most of each ink, unfolded where some are limited or it is asked for. */
export function SingleInkLimits({ inks, limits, onMove, onRest }: Props) {
  const [open, setOpen] = useState(limits.per_ink_percent.length > 0);
  const known = new Map(limits.per_ink_percent);
  const withLimit = (ink: string, value: number): Limits => {
    const others = limits.per_ink_percent.filter(([each]) => each !== ink);
    const all: [string, number][] = value < 100 ? [...others, [ink, value]] : others;
    return { ...limits, per_ink_percent: all.sort(([a], [b]) => a.localeCompare(b)) };
  };
  return (
    <>
      <button type="button" className="quiet-button" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Hide limits of single inks" : "Limits of single inks"}
      </button>
      {open &&
        inks.map((ink) => (
          <SliderSetting
            key={ink}
            label={`${inkName(ink)} at most`}
            value={known.get(ink) ?? 100}
            min={20}
            max={100}
            text={percent(known.get(ink) ?? 100)}
            onMove={(value) => onMove(withLimit(ink, value))}
            onRest={(value) => onRest(withLimit(ink, value))}
          />
        ))}
    </>
  );
}
