import "./DeliverPanel.css";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import OutlinedInput from "@mui/material/OutlinedInput";
import Select from "@mui/material/Select";
import { useEffect, useState } from "react";
import type { Recipe } from "../../../api/client";
import { type DeliveryRule, useOutputs } from "../../../api/policyQueries";
import { useRuns } from "../../../api/queries";
import { percent } from "../../../shared/figures";
import { drivenByRgb } from "../../../shared/inks";
import { Choice } from "../../../shared/ui/Choice";
import { RunLine } from "../../../shared/ui/RunLine";
import { SettingName } from "../../../shared/ui/SettingName";
import { SliderSetting } from "../../../shared/ui/SliderSetting";
import { exampleName } from "../nameRule";
import { FilmSettings } from "./FilmSettings";
import { KeptSettings } from "./KeptSettings";
import { NegativePanel } from "./NegativePanel";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";
import { SeparateButton } from "./SeparateButton";

type Deliver = Recipe["deliver"];

const FORMATS: [Deliver["format"], string, string][] = [
  ["tiff", "TIFF", "Any inks, 8 or 16 bit"],
  ["jpeg", "JPEG", "CMYK or RGB, 8 bit"],
  ["pdf", "PDF", "A page with its output intent"],
  ["films", "Films", "A plate each, halftoned or gray"],
  ["negative", "Negative", "For contact prints by hand"],
  ["hard-proof", "Hard proof", "One page to run and sign"],
];

/** What is made of inks, which a printer driven by RGB keeps to itself. */
const INK_FORMATS = ["films", "hard-proof"];

const LOOKS = { films: "film", negative: "negative" } as const;

/** What a delivery rule does to a written page. */
function ruleInWords(rule: DeliveryRule): string {
  const words = [
    rule.most_ppi ? `at most ${rule.most_ppi} ppi` : "",
    rule.compression === "jpeg" ? `what is averaged down as JPEG ${rule.jpeg_quality}` : "",
    rule.pdf_version ? `PDF ${rule.pdf_version}` : "",
    rule.least_ppi ? `said where there are less than ${rule.least_ppi} ppi` : "",
  ].filter(Boolean);
  return words.length > 0 ? `Written with ${words.join(", ")}.` : "It asks for nothing more of a page.";
}

/** What the written file is like, and the writing of it. */
export function DeliverPanel(props: PanelProps) {
  const { artwork, condition, conditions, recipe, control, viewState } = props;
  const { deliver } = recipe;
  const rgb = drivenByRgb(condition.inks);
  const runs = useRuns();
  const written = runs.data?.filter((run) => run.kind === "separation" && run.artwork_id === artwork.id);
  // What was asked for a moment ago stands by the button that asked for it.
  const [since] = useState(() => Date.now() - 10_000);
  const newest = written?.find((run) => Date.parse(run.asked_at) > since);
  const mine = written?.filter((run) => run !== newest).slice(0, 4);
  const [rule, setRule] = useState(deliver.name_rule);
  const outputs = useOutputs().data?.filter((each) => each.condition === condition.slug) ?? [];
  const asked = outputs.find((each) => each.id === viewState.rule);
  const output = deliver.format === "pdf" ? asked : undefined;
  const [others, setOthers] = useState<string[]>([]);
  useEffect(() => setRule(deliver.name_rule), [deliver.name_rule]);
  const withDeliver = (change: Partial<Deliver>) => ({ ...recipe, deliver: { ...deliver, ...change } });
  const keep = (change: Partial<Deliver>) => control.keep(withDeliver(change));
  const inks = deliver.format === "tiff" || deliver.format === "jpeg" || deliver.format === "pdf";
  return (
    <>
      <PanelHead
        title="Deliver"
        purpose="A copy, with the sheet that says how it was made."
        control={control}
      />
      <section>
        <div className="formats">
          {FORMATS.map(([format, name, meaning]) => (
            <button
              key={format}
              type="button"
              className="choice"
              aria-pressed={deliver.format === format}
              disabled={
                rgb ? INK_FORMATS.includes(format) : format === "jpeg" && condition.inks.join("") !== "CMYK"
              }
              onClick={() => {
                keep({ format });
                // Who chooses another format asks for no page any more.
                if (format !== "pdf" && viewState.rule) viewState.followRule(0);
              }}
            >
              <b>{name}</b>
              <span className="soft">{meaning}</span>
            </button>
          ))}
        </div>
      </section>
      {deliver.format === "tiff" && (
        <section>
          <Choice
            label="Depth"
            value={deliver.depth}
            options={[
              [8, "8 bit"],
              [16, "16 bit"],
            ]}
            onChange={(depth) => keep({ depth })}
          />
          <Choice
            label="Compression"
            value={deliver.compression}
            options={[
              ["none", "None"],
              ["lzw", "LZW"],
              ["deflate", "Deflate"],
            ]}
            onChange={(compression) => keep({ compression })}
          />
        </section>
      )}
      {deliver.format === "jpeg" && (
        <SliderSetting
          label="Quality"
          value={deliver.jpeg_quality}
          min={50}
          max={100}
          text={percent(deliver.jpeg_quality)}
          onMove={(jpeg_quality) => control.change(withDeliver({ jpeg_quality }))}
          onRest={(jpeg_quality) => keep({ jpeg_quality })}
        />
      )}
      {deliver.format !== "films" && deliver.format !== "negative" && (
        <section>
          <Choice
            label="Profile"
            value={deliver.embed_profile ? "embed" : "strip"}
            options={[
              ["embed", "Embed"],
              ["strip", "Strip"],
            ]}
            onChange={(value) => keep({ embed_profile: value === "embed" })}
          />
          {!deliver.embed_profile && (
            <p className="notice">
              Without its profile nobody can tell from the file that it is meant for {condition.name}. Say so
              when you hand it over.
            </p>
          )}
        </section>
      )}
      {asked && !output && (
        <p className="notice">
          A page for {asked.name} is a PDF: choose it above, and the rule of {asked.name} is followed.
        </p>
      )}
      {deliver.format === "pdf" && outputs.length > 0 && (
        <section>
          <div className="setting wide">
            <SettingName name="Delivery rule" />
            <Select
              size="small"
              value={output?.id ?? 0}
              inputProps={{ "aria-label": "Delivery rule" }}
              onChange={(event) => viewState.followRule(Number(event.target.value))}
            >
              <MenuItem value={0}>None: the page as it is separated</MenuItem>
              {outputs.map((each) => (
                <MenuItem key={each.id} value={each.id}>
                  Of {each.name}
                </MenuItem>
              ))}
            </Select>
          </div>
          {output && <p className="soft">{ruleInWords(output.rule)}</p>}
        </section>
      )}
      {condition.device_inks.length > condition.inks.length &&
        (deliver.format === "tiff" || deliver.format === "films") && (
          <section>
            <Choice
              label="Inks"
              value={deliver.calibrated ? "printer" : "separation"}
              options={[
                ["separation", condition.inks.join(" ")],
                ["printer", condition.device_inks.join(" ")],
              ]}
              onChange={(value) => keep({ calibrated: value === "printer" })}
            />
            <p className="soft">
              {deliver.calibrated
                ? "As the printer lays them down, light and dark inks apart, behind its calibration; without profile."
                : "As separated; the printer's own calibration splits light and dark inks."}
            </p>
          </section>
        )}
      {(deliver.format === "films" || deliver.format === "negative") && (
        <Button
          aria-pressed={viewState.map === LOOKS[deliver.format]}
          variant={viewState.map === LOOKS[deliver.format] ? "contained" : "outlined"}
          onClick={() => viewState.showMap(LOOKS[deliver.format as "films" | "negative"])}
        >
          {deliver.format === "films" ? "Look at the dots" : "Look at the negative"}
        </Button>
      )}
      {deliver.format === "films" && (
        <FilmSettings
          film={deliver.film}
          inks={condition.inks}
          off={recipe.adjust.regions?.length ? [] : recipe.ink.without}
          onMove={(film) => control.change(withDeliver({ film }))}
          onRest={(film) => keep({ film })}
        />
      )}
      {deliver.format === "negative" && (
        <NegativePanel
          negative={deliver.negative}
          name={artwork.name}
          onMove={(negative) => control.change(withDeliver({ negative }))}
          onRest={(negative) => keep({ negative })}
        />
      )}
      <section>
        <h3>
          <SettingName name="Name rule" />
        </h3>
        <OutlinedInput
          size="small"
          inputProps={{ "aria-label": "Name rule" }}
          value={rule}
          onChange={(event) => setRule(event.target.value)}
          onBlur={() => rule !== deliver.name_rule && keep({ name_rule: rule })}
          onKeyDown={(event) =>
            event.key === "Enter" && rule !== deliver.name_rule && keep({ name_rule: rule })
          }
        />
        <p className="soft">
          Fields: {"{artwork}"} {"{condition}"} {"{intent}"} {"{limit}"} {"{date}"}
          <br />
          Gives:{" "}
          <b>{exampleName(rule, artwork.name, condition.name, recipe, new Date(), condition.inks.length)}</b>
        </p>
      </section>
      {conditions.length > 1 && inks && (
        <section>
          <h3>For other conditions in one go</h3>
          <div>
            {conditions
              .filter((each) => each.slug !== condition.slug)
              .map((each) => (
                <FormControlLabel
                  key={each.slug}
                  control={
                    <Checkbox
                      size="small"
                      checked={others.includes(each.slug)}
                      onChange={(event) =>
                        setOthers(
                          event.target.checked
                            ? [...others, each.slug]
                            : others.filter((slug) => slug !== each.slug),
                        )
                      }
                    />
                  }
                  label={each.name}
                />
              ))}
          </div>
          {others.length > 0 && (
            <p className="soft">
              Each with the limits and black kept for this artwork there; intent, adjustments and the file's
              kind as here.
            </p>
          )}
        </section>
      )}
      <section>
        <h3>Written from this artwork</h3>
        {mine?.length === 0 && <p className="soft">Nothing yet.</p>}
        <div>
          {mine?.map((run) => (
            <RunLine key={run.id} run={run} />
          ))}
        </div>
      </section>
      <KeptSettings
        station="deliver"
        word="delivery settings"
        inks={[]}
        recipe={recipe}
        onUse={(kept) => control.keep({ ...recipe, deliver: kept.deliver })}
      />
      <KeptSettings
        station="recipe"
        word="recipes"
        inks={condition.inks}
        recipe={recipe}
        onUse={(whole) => {
          // Source and regions are the artwork's own.
          const adjust = { ...whole.adjust, regions: recipe.adjust.regions };
          control.keep({ ...whole, source: recipe.source, adjust });
        }}
      />
      <div className="foot">
        {newest && <RunLine run={newest} />}
        <SeparateButton
          artwork={artwork}
          condition={condition}
          recipe={recipe}
          viewState={viewState}
          others={inks ? others : []}
          output={output}
        />
      </div>
    </>
  );
}
