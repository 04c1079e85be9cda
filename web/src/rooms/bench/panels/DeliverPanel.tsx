import OutlinedInput from "@mui/material/OutlinedInput";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useEffect, useState } from "react";
import type { Recipe } from "../../../api/client";
import { useRuns } from "../../../api/queries";
import { RunLine } from "../../runs/RunLine";
import { exampleName } from "../nameRule";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";
import { SeparateButton } from "./SeparateButton";

type Deliver = Recipe["deliver"];

/** What the written file is like, and the writing of it. */
export function DeliverPanel({ artwork, condition, recipe, control, look }: PanelProps) {
  const { deliver } = recipe;
  const runs = useRuns();
  const mine = runs.data?.filter((run) => run.artwork_id === artwork.id).slice(0, 4) ?? [];
  const [rule, setRule] = useState(deliver.name_rule);
  useEffect(() => setRule(deliver.name_rule), [deliver.name_rule]);
  const keep = (change: Partial<Deliver>) => control.keep({ ...recipe, deliver: { ...deliver, ...change } });
  return (
    <>
      <PanelHead
        title="Deliver"
        purpose="A copy in inks, with the sheet that says how it was made."
        control={control}
      />
      <section>
        <div className="setting wide">
          <span>Depth</span>
          <ToggleButtonGroup
            exclusive
            aria-label="Depth"
            value={deliver.depth}
            onChange={(_, depth: Deliver["depth"] | null) => depth && keep({ depth })}
          >
            <ToggleButton value={8}>8 bit</ToggleButton>
            <ToggleButton value={16}>16 bit</ToggleButton>
          </ToggleButtonGroup>
        </div>
        <div className="setting wide">
          <span>Compression</span>
          <ToggleButtonGroup
            exclusive
            aria-label="Compression"
            value={deliver.compression}
            onChange={(_, compression: Deliver["compression"] | null) => compression && keep({ compression })}
          >
            <ToggleButton value="none">None</ToggleButton>
            <ToggleButton value="lzw">LZW</ToggleButton>
            <ToggleButton value="deflate">Deflate</ToggleButton>
          </ToggleButtonGroup>
        </div>
        <div className="setting wide">
          <span>Profile</span>
          <ToggleButtonGroup
            exclusive
            aria-label="Profile"
            value={deliver.embed_profile ? "embed" : "strip"}
            onChange={(_, value: string | null) => value && keep({ embed_profile: value === "embed" })}
          >
            <ToggleButton value="embed">Embed</ToggleButton>
            <ToggleButton value="strip">Strip</ToggleButton>
          </ToggleButtonGroup>
        </div>
        {!deliver.embed_profile && (
          <p className="notice">
            Without its profile nobody can tell from the file that it is meant for {condition.name}. Say so
            when you hand it over.
          </p>
        )}
      </section>
      <section>
        <label htmlFor="name-rule">
          <h3>Name rule</h3>
        </label>
        <OutlinedInput
          id="name-rule"
          size="small"
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
          Gives: <b>{exampleName(rule, artwork.name, condition.name, recipe, new Date())}</b>
        </p>
      </section>
      <section>
        <h3>Written from this artwork</h3>
        {mine.length === 0 && <p className="soft">Nothing yet.</p>}
        <div>
          {mine.map((run) => (
            <RunLine key={run.id} run={run} />
          ))}
        </div>
      </section>
      <div className="foot">
        <SeparateButton artwork={artwork} condition={condition} recipe={recipe} look={look} />
      </div>
    </>
  );
}
