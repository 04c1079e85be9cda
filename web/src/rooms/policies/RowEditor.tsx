import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useState } from "react";
import type { Catches, Does, Row } from "../../api/policyQueries";
import { useBlackKinds } from "../../api/queries";
import { blackName } from "../../shared/blackNames";
import { NumberField } from "../../shared/ui/NumberField";
import { SettingName } from "../../shared/ui/SettingName";
import { COLORS, INTENTS, OBJECTS, SPACES } from "./rowWords";

type Convert = Extract<Does, { kind: "convert" }>;
const DOES: [Does["kind"], string][] = [
  ["convert", "convert"],
  ["leave", "leave"],
  ["refuse", "refuse"],
  ["black only", "black only"],
  ["clean solids", "clean solids"],
];
const STARTS: Record<string, Does> = {
  convert: {
    kind: "convert",
    intent: "relative",
    bpc: true,
    method: "rebuilt",
    black: "gcr",
    limit: null,
    preserve: [],
  },
  leave: { kind: "leave" },
  refuse: { kind: "refuse", sentence: "Ask the sender what this color is meant to be." },
  "black only": { kind: "black only" },
  "clean solids": { kind: "clean solids" },
};

const toggled = <T extends string>(all: readonly T[], one: T): T[] =>
  all.includes(one) ? all.filter((each) => each !== one) : [...all, one];

interface Props {
  row: Row;
  last: boolean;
  /** Whether everything goes into inks, which alone have limits, black and pure ones. */
  toInks: boolean;
  onChange: (row: Row) => void;
  onMove: (by: number) => void;
  onRemove: () => void;
}

/** What a row catches, and what it does; the last one catches everything. */
export function RowEditor({ row, last, toInks, onChange, onMove, onRemove }: Props) {
  const { catches, does } = row;
  const caught = (part: Partial<Catches>) => onChange({ ...row, catches: { ...catches, ...part } });
  const converted = (part: Partial<Convert>) =>
    does.kind === "convert" && onChange({ ...row, does: { ...does, ...part } });
  return (
    <div className="row-editor">
      {!last && (
        <>
          <fieldset>
            <legend>Catches of spaces (none chosen: all)</legend>
            {SPACES.map((space) => (
              <label key={space}>
                <input
                  type="checkbox"
                  checked={catches.spaces.includes(space)}
                  onChange={() => caught({ spaces: toggled(catches.spaces, space) })}
                />
                {space === "spot" ? "spots" : space}
              </label>
            ))}
          </fieldset>
          <fieldset>
            <legend>of objects (none chosen: all)</legend>
            {OBJECTS.map(([object, word]) => (
              <label key={object}>
                <input
                  type="checkbox"
                  checked={catches.objects.includes(object)}
                  onChange={() => caught({ objects: toggled(catches.objects, object) })}
                />
                {word}
              </label>
            ))}
          </fieldset>
          <div className="pair">
            Profile
            <Select
              size="small"
              value={catches.tagged === true ? "with" : catches.tagged === false ? "without" : "either"}
              inputProps={{ "aria-label": "Profile" }}
              onChange={(event) =>
                caught({ tagged: event.target.value === "either" ? null : event.target.value === "with" })
              }
            >
              <MenuItem value="either">with or without</MenuItem>
              <MenuItem value="with">with</MenuItem>
              <MenuItem value="without">without</MenuItem>
            </Select>
          </div>
          <div className="pair">
            Color
            <Select
              size="small"
              value={catches.color}
              inputProps={{ "aria-label": "Color" }}
              onChange={(event) => {
                const color = COLORS.find(([each]) => each === event.target.value)?.[0];
                if (color) caught({ color });
              }}
            >
              {COLORS.map(([color, word]) => (
                <MenuItem key={color} value={color}>
                  {word}
                </MenuItem>
              ))}
            </Select>
          </div>
          <Bounds catches={catches} caught={caught} />
        </>
      )}
      <div className="pair">
        Then
        <Select
          size="small"
          value={does.kind}
          inputProps={{ "aria-label": "Then" }}
          onChange={(event) => {
            const next = STARTS[String(event.target.value)];
            if (next) onChange({ ...row, does: next });
          }}
        >
          {DOES.map(([kind, word]) => (
            <MenuItem key={kind} value={kind}>
              {word}
            </MenuItem>
          ))}
        </Select>
      </div>
      {does.kind === "convert" && (
        <>
          <div className="pair">
            Intent
            <Select
              size="small"
              value={does.intent ?? "job"}
              inputProps={{ "aria-label": "Intent" }}
              onChange={(event) =>
                converted({ intent: INTENTS.find((intent) => intent === event.target.value) ?? null })
              }
            >
              <MenuItem value="job">the job's</MenuItem>
              {INTENTS.map((intent) => (
                <MenuItem key={intent} value={intent}>
                  {intent}
                </MenuItem>
              ))}
            </Select>
          </div>
          <div className="pair">
            By
            <Select
              size="small"
              value={does.method}
              inputProps={{ "aria-label": "By" }}
              onChange={(event) =>
                converted({
                  method: event.target.value === "rebuilt" ? "rebuilt" : "as-profiled",
                  preserve: [],
                  limit: null,
                })
              }
            >
              <MenuItem value="rebuilt">own separation</MenuItem>
              <MenuItem value="as-profiled">profile's tables</MenuItem>
            </Select>
          </div>
          {toInks && does.method === "rebuilt" && <InkOfRow does={does} converted={converted} />}
          <label>
            <span>Black point compensation</span>
            <input
              type="checkbox"
              checked={does.bpc}
              onChange={(event) => converted({ bpc: event.target.checked })}
            />
          </label>
        </>
      )}
      {does.kind === "refuse" && (
        <label className="sentence">
          Told to the sender
          <input
            className="plain-input"
            defaultValue={does.sentence}
            onBlur={(event) =>
              event.target.value !== does.sentence &&
              onChange({ ...row, does: { ...does, sentence: event.target.value } })
            }
          />
        </label>
      )}
      {!last && (
        <span className="answers">
          <button type="button" className="quiet-button" onClick={() => onMove(-1)}>
            Up <kbd>Alt ↑</kbd>
          </button>
          <button type="button" className="quiet-button" onClick={() => onMove(1)}>
            Down <kbd>Alt ↓</kbd>
          </button>
          <button type="button" className="quiet-button" onClick={() => onChange({ ...row, off: !row.off })}>
            {row.off ? "Switch on" : "Switch off"}
          </button>
          <button type="button" className="quiet-button" onClick={onRemove}>
            Remove
          </button>
        </span>
      )}
    </div>
  );
}

interface BoundsProps {
  catches: Catches;
  caught: (part: Partial<Catches>) => void;
}

/** Spots by name, overprinting, and bounds of ink and resolution. */
function Bounds({ catches, caught }: BoundsProps) {
  const [names, setNames] = useState(catches.spots.join(", "));
  const ofSpots = catches.spaces.length === 0 || catches.spaces.includes("spot");
  const bound = (part: "ink_over" | "ppi_under" | "ppi_over", label: string, most: number) => (
    <div className="pair">
      {label}
      <NumberField
        label={label}
        value={catches[part]}
        min={0}
        max={most}
        optional
        placeholder="any"
        onKeep={(value) => caught({ [part]: value })}
      />
    </div>
  );
  return (
    <>
      {ofSpots && (
        <label className="sentence">
          Spots of these names only, by commas
          <input
            className="plain-input"
            placeholder="all"
            value={names}
            onChange={(event) => setNames(event.target.value)}
            onBlur={() => {
              const spots = names
                .split(",")
                .map((name) => name.trim())
                .filter(Boolean);
              if (spots.join() !== catches.spots.join()) caught({ spots });
            }}
          />
        </label>
      )}
      <div className="pair">
        Overprinting
        <Select
          size="small"
          value={catches.overprint == null ? "either" : catches.overprint ? "is" : "is not"}
          inputProps={{ "aria-label": "Overprinting" }}
          onChange={(event) =>
            caught({ overprint: event.target.value === "either" ? null : event.target.value === "is" })
          }
        >
          <MenuItem value="either">or not</MenuItem>
          <MenuItem value="is">only</MenuItem>
          <MenuItem value="is not">not</MenuItem>
        </Select>
      </div>
      {bound("ink_over", "Total ink over, %", 800)}
      {bound("ppi_under", "Pictures under, ppi", 100_000)}
      {bound("ppi_over", "Pictures over, ppi", 100_000)}
    </>
  );
}

interface InkProps {
  does: Convert;
  converted: (part: Partial<Convert>) => void;
}

const PRESERVED = [
  ["pure black", "pure black"],
  ["pure inks", "pure inks"],
  ["gray", "gray of all inks"],
] as const;

/** The own separation of a row: its black, its limit, and what stays pure. */
function InkOfRow({ does, converted }: InkProps) {
  const kinds = useBlackKinds();
  const preserve = does.preserve ?? [];
  return (
    <>
      <div className="pair">
        <SettingName name="Black generation" />
        <Select
          size="small"
          value={does.black}
          inputProps={{ "aria-label": "Black generation of the row" }}
          onChange={(event) => converted({ black: event.target.value })}
        >
          {Object.keys(kinds.data ?? { [does.black]: true }).map((each) => (
            <MenuItem key={each} value={each}>
              {blackName(each)}
            </MenuItem>
          ))}
        </Select>
      </div>
      <div className="pair">
        <SettingName name="Ink limit" />
        <NumberField
          label="Ink limit of the row, %"
          value={does.limit}
          min={50}
          max={800}
          optional
          placeholder="the condition's"
          onKeep={(limit) => converted({ limit })}
        />
      </div>
      <fieldset>
        <legend>Preserve</legend>
        {PRESERVED.map(([part, word]) => (
          <label key={part}>
            <input
              type="checkbox"
              checked={preserve.includes(part)}
              onChange={() => converted({ preserve: toggled(preserve, part) })}
            />
            {word}
          </label>
        ))}
      </fieldset>
    </>
  );
}
