import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import OutlinedInput from "@mui/material/OutlinedInput";
import { useEffect, useState } from "react";
import type { Film } from "../../../api/client";
import { fixed } from "../../../shared/figures";
import { Choice } from "../../../shared/ui/Choice";
import { SliderSetting } from "../../../shared/ui/SliderSetting";

const USUAL: Record<string, number> = { C: 15, M: 75, Y: 0, K: 45 };
const SHARED = [15, 75, 45, 0];
const SWITCHES = [
  ["mirrored", "Mirrored, read through the film"],
  ["negative", "Negative, light passes where ink is to be"],
  ["marks", "Register marks, name, notes and step wedge"],
] as const;

interface Props {
  film: Film;
  inks: string[];
  /** Inks that the separation does without. */
  off?: string[];
  onMove: (film: Film) => void;
  onRest: (film: Film) => void;
}

/** Halftoned or gray, ruling, angle, dot shape, and what stands in the margin. */
export function FilmSettings({ film, inks, off = [], onMove, onRest }: Props) {
  const [notes, setNotes] = useState(film.notes);
  useEffect(() => setNotes(film.notes), [film.notes]);
  const move = (part: Partial<Film>) => onMove({ ...film, ...part });
  const rest = (part: Partial<Film>) => onRest({ ...film, ...part });
  const angles = new Map(film.angles);
  const angleOf = (ink: string, index: number) => angles.get(ink) ?? USUAL[ink] ?? SHARED[index % 4] ?? 45;
  const withAngle = (ink: string, angle: number): Film["angles"] => [
    ...film.angles.filter(([each]) => each !== ink),
    [ink, angle],
  ];
  return (
    <section>
      <Choice
        label="Film"
        value={film.halftone ? "dots" : "gray"}
        options={[
          ["dots", "Halftone"],
          ["gray", "Gray"],
        ]}
        onChange={(value) => rest({ halftone: value === "dots" })}
      />
      <Choice
        label="Written as"
        value={film.container}
        options={[
          ["pdf", "PDF"],
          ["tiff", inks.length > 1 ? "TIFFs" : "TIFF"],
        ]}
        onChange={(container) => rest({ container })}
      />
      {film.halftone && (
        <div>
          <Choice
            label="Film dpi"
            value={film.dpi}
            options={[600, 1200, 2400, 2540].map((dpi) => [dpi, String(dpi)] as const)}
            onChange={(dpi) => rest({ dpi, ruling_lpi: Math.min(film.ruling_lpi, Math.floor(dpi / 3)) })}
          />
          <SliderSetting
            label="Ruling"
            value={film.ruling_lpi}
            min={20}
            max={Math.min(200, Math.floor(film.dpi / 3))}
            text={`${fixed(film.ruling_lpi, 0)} lpi`}
            onMove={(ruling_lpi) => move({ ruling_lpi })}
            onRest={(ruling_lpi) => rest({ ruling_lpi })}
          />
          <Choice
            label="Dot shape"
            value={film.shape}
            options={[
              ["round", "Round"],
              ["elliptical", "Elliptical"],
              ["line", "Line"],
            ]}
            onChange={(shape) => rest({ shape })}
          />
          {inks.map((ink, index) =>
            off.includes(ink) ? (
              <p key={ink} className="soft">
                {ink} is not used: its film is blank.
              </p>
            ) : (
              <SliderSetting
                key={ink}
                label={`Angle of ${ink}`}
                value={angleOf(ink, index)}
                min={0}
                max={179}
                step={0.5}
                text={`${fixed(angleOf(ink, index))}°`}
                onMove={(angle) => move({ angles: withAngle(ink, angle) })}
                onRest={(angle) => rest({ angles: withAngle(ink, angle) })}
              />
            ),
          )}
        </div>
      )}
      <div>
        {SWITCHES.map(([field, label]) => (
          <FormControlLabel
            key={field}
            control={
              <Checkbox
                size="small"
                checked={film[field]}
                onChange={(event) => rest({ [field]: event.target.checked })}
              />
            }
            label={label}
          />
        ))}
      </div>
      {film.marks && (
        <OutlinedInput
          size="small"
          placeholder="notes for the margin"
          inputProps={{ "aria-label": "Notes for the margin", maxLength: 400 }}
          value={notes}
          onChange={(event) => setNotes(event.target.value)}
          onBlur={() => notes !== film.notes && rest({ notes })}
        />
      )}
    </section>
  );
}
