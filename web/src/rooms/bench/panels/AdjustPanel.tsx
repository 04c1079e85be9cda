import "./AdjustPanel.css";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useState } from "react";
import type { Adjustment, CurvePoints, HueMove, Readout, Recipe, Region } from "../../../api/client";
import { useAdjustments } from "../../../api/houseQueries";
import { useHistogram } from "../../../api/queries";
import { fixed } from "../../../shared/figures";
import { Choice } from "../../../shared/ui/Choice";
import { History } from "../../../shared/ui/History";
import { SliderSetting } from "../../../shared/ui/SliderSetting";
import { knowsItsColors } from "../knowsItsColors";
import { straight } from "../renderRequest";
import type { Drawing } from "../useDrawing";
import { CurveEditor } from "./CurveEditor";
import { HueMoves } from "./HueMoves";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";
import { RegionSettings } from "./RegionSettings";

const STRAIGHT: CurvePoints = [
  [0, 0],
  [1, 1],
];
export const NOTHING: Adjustment = {
  master: { points: STRAIGHT },
  channels: [],
  lightness: { points: STRAIGHT },
  chroma_percent: 0,
  hues: [],
};
const CHANNELS: Record<string, string[]> = { RGB: ["R", "G", "B"], CMYK: ["C", "M", "Y", "K"] };
const COLORS: Record<string, string> = {
  R: "#b3261e",
  G: "#2d7a36",
  B: "#2450b8",
  C: "#0093c9",
  M: "#c4147a",
  Y: "#b99b00",
};

interface Props extends PanelProps {
  drawing: Drawing;
  pointer: Readout | undefined;
}

/** Edits on the artwork before it is separated, watched through the proof; everywhere, or in a region. */
export function AdjustPanel({ artwork, condition, recipe, control, viewState, drawing, pointer }: Props) {
  const { adjust } = recipe;
  const region = adjust.regions.find((each) => each.name === viewState.region);
  const given = region?.adjustment ?? adjust.base;
  const channels = CHANNELS[artwork.space] ?? [];
  const [channel, setChannel] = useState("All");
  const colored = knowsItsColors(artwork, recipe) ? recipe : undefined;
  const histogram = useHistogram(artwork.id, condition.slug, colored).data;
  const inRgb = artwork.space === "RGB";

  const withRegion = (next: Region): Recipe => ({
    ...recipe,
    adjust: { ...adjust, regions: adjust.regions.map((each) => (each.name === region?.name ? next : each)) },
  });
  const withGiven = (next: Adjustment): Recipe =>
    region ? withRegion({ ...region, adjustment: next }) : { ...recipe, adjust: { ...adjust, base: next } };
  const change = (next: Partial<Adjustment>) => control.change(withGiven({ ...given, ...next }));
  const keep = (next: Partial<Adjustment>) => control.keep(withGiven({ ...given, ...next }));

  const shown = channels.includes(channel) || channel === "L*" ? channel : "All";
  const points =
    shown === "All"
      ? given.master.points
      : shown === "L*"
        ? given.lightness.points
        : (given.channels.find((each) => each.channel === shown)?.curve.points ?? STRAIGHT);
  const withPoints = (next: CurvePoints): Partial<Adjustment> => {
    if (shown === "All") return { master: { points: next } };
    if (shown === "L*") return { lightness: { points: next } };
    const others = given.channels.filter((each) => each.channel !== shown);
    return { channels: straight(next) ? others : [...others, { channel: shown, curve: { points: next } }] };
  };
  const options = ["All", ...channels, ...(inRgb ? ["L*"] : [])].map((each) => [each, each] as const);
  const behind = shown === "All" ? histogram?.[inRgb ? "G" : "K"] : histogram?.[shown === "L*" ? "L" : shown];

  return (
    <>
      <PanelHead title="Adjust" purpose="The artwork edited, seen as it prints." control={control} />
      <RegionSettings
        condition={condition}
        recipe={recipe}
        control={control}
        viewState={viewState}
        drawing={drawing}
        region={region}
        onChange={(next) => control.change(withRegion(next))}
        onKeep={(next) => control.keep(withRegion(next))}
      />
      <section>
        <div className="head-line">
          <h3>Curve{region ? ` in ${region.name}` : ""}</h3>
          <button
            type="button"
            className="quiet-button"
            disabled={straight(points)}
            onClick={() => keep(withPoints(STRAIGHT))}
          >
            Reset the curve
          </button>
        </div>
        <Choice bare label="Channel of the curve" value={shown} options={options} onChange={setChannel} />
        <CurveEditor
          label={shown === "All" ? "all channels" : shown}
          points={points}
          histogram={behind}
          color={COLORS[shown]}
          scale={shown === "L*" || !inRgb ? 100 : 255}
          axes={shown === "L*" ? ["L* in", "L* out"] : ["code in", "code out"]}
          onMove={(next) => change(withPoints(next))}
          onRest={(next) => keep(withPoints(next))}
        />
      </section>
      {inRgb ? (
        <>
          <section style={{ gap: 0 }}>
            <SliderSetting
              label="Chroma"
              value={given.chroma_percent}
              min={-100}
              max={100}
              text={`${given.chroma_percent > 0 ? "+" : ""}${fixed(given.chroma_percent, 0)} %`}
              onMove={(chroma_percent) => change({ chroma_percent })}
              onRest={(chroma_percent) => keep({ chroma_percent })}
            />
          </section>
          <HueMoves
            hues={given.hues}
            histogram={histogram?.h}
            pointer={pointer}
            drawing={drawing}
            viewState={viewState}
            onMove={(hues: HueMove[]) => change({ hues })}
            onRest={(hues: HueMove[]) => keep({ hues })}
          />
        </>
      ) : (
        <p className="soft">CMYK artwork is edited by its curves here, and by its plates at Plate.</p>
      )}
      <Saved given={given} onTake={(next) => keep(next)} />
      {pointer?.out_of_reach && (
        <p className="notice at-pointer">
          At the pointer: {pointer.out_of_reach}. No adjustment makes ink brighter.
        </p>
      )}
    </>
  );
}

/** Adjustments by name: keep this one, use another, start over. */
function Saved({ given, onTake }: { given: Adjustment; onTake: (next: Adjustment) => void }) {
  const { list, name, forget } = useAdjustments();
  const [wanted, setWanted] = useState("");
  const [taken, setTaken] = useState("");
  const nothing = JSON.stringify(given) === JSON.stringify(NOTHING);
  const found = list.find((each) => String(each.id) === taken);
  return (
    <section>
      <div className="head-line">
        <h3>Named adjustments</h3>
        <button type="button" className="quiet-button" disabled={nothing} onClick={() => onTake(NOTHING)}>
          Reset all
        </button>
      </div>
      <form
        className="beside"
        onSubmit={(event) => {
          event.preventDefault();
          const version = list.find((each) => each.name === wanted)?.version ?? 0;
          name.mutate({ name: wanted, adjustment: given, version }, { onSuccess: () => setWanted("") });
        }}
      >
        <input
          className="field"
          aria-label="Name for this adjustment"
          placeholder="name for this one"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
        />
        <Button type="submit" disabled={!wanted.trim() || nothing}>
          Keep
        </Button>
      </form>
      {list.length > 0 && (
        <>
          <Select
            size="small"
            displayEmpty
            value={found ? taken : ""}
            inputProps={{ "aria-label": "Named adjustment" }}
            onChange={(event) => {
              const chosen = list.find((each) => String(each.id) === event.target.value);
              setTaken(event.target.value);
              if (chosen) onTake(chosen.adjustment);
            }}
          >
            <MenuItem value="" disabled>
              use a named one
            </MenuItem>
            {list.map((each) => (
              <MenuItem key={each.id} value={String(each.id)}>
                {each.name}
              </MenuItem>
            ))}
          </Select>
          {found && (
            <>
              <button type="button" className="quiet-button soft" onClick={() => forget.mutate(found.id)}>
                Remove {found.name}
              </button>
              <History kind="adjustment" recordKey={found.name} mayChange />
            </>
          )}
        </>
      )}
      {name.error && (
        <p className="notice" role="alert">
          {name.error.message}
        </p>
      )}
    </section>
  );
}
