import "./ProfilePage.css";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import TextField from "@mui/material/TextField";
import { Fragment, useState } from "react";
import { useSearchParams } from "react-router";
import type { Condition } from "../../api/client";
import { useProfileFacts, useThrough } from "../../api/conditionQueries";
import { useConditions } from "../../api/queries";
import { bytes, fixed } from "../../shared/figures";
import { drivenByRgb, inkName, inkNames } from "../../shared/inks";
import { LinePlot } from "../../shared/plots/LinePlot";
import { Choice } from "../../shared/ui/Choice";
import { NotHere } from "../../shared/ui/NotHere";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import { ConditionHead } from "./ConditionHead";
import { useOneCondition } from "./useOneCondition";
import { valueRows } from "./valueRows";

/** A profile taken apart, with another one beside it. */
export function ProfilePage() {
  const { condition, instead } = useOneCondition();
  return condition ? <Inspect key={condition.slug} condition={condition} /> : instead;
}

function Inspect({ condition }: { condition: Condition }) {
  const [params, setParams] = useSearchParams();
  const beside = params.get("beside") ?? "";
  const conditions = useConditions().data ?? [];
  const other = conditions.find((each) => each.slug === beside);
  const facts = useProfileFacts(condition.slug);
  const others = useProfileFacts(beside);
  const [picked, setPicked] = useState<string[]>([]);
  const tag = params.get("tag") ?? "";
  const choose = (name: string, value: string) => {
    const next = new URLSearchParams(params);
    if (value) next.set(name, value);
    else next.delete(name);
    setParams(next, { replace: true });
  };
  if (facts.error) return <NotHere title="Profile">{facts.error.message}</NotHere>;
  if (!facts.data) return <p className="room soft">Opening the profile</p>;
  const theirTags = new Map(others.data?.tags.map((each) => [each.tag, each]));
  const tags = [...new Set([...facts.data.tags, ...(others.data?.tags ?? [])].map((each) => each.tag))];
  const own = new Map(facts.data.tags.map((each) => [each.tag, each]));
  const sameSpace = facts.data.header["device space"] === others.data?.header["device space"];
  return (
    <main className="room">
      <ConditionHead condition={condition}>
        <a href={`/api/conditions/${condition.slug}/profile`}>Download ICC</a>
      </ConditionHead>
      <div className="setting wide beside">
        <span>Compare with</span>
        <Select
          size="small"
          displayEmpty
          value={beside}
          inputProps={{ "aria-label": "Profile to compare with" }}
          onChange={(event) => choose("beside", event.target.value)}
        >
          <MenuItem value="">No other</MenuItem>
          {conditions
            .filter((each) => each.slug !== condition.slug)
            .map((each) => (
              <MenuItem key={each.slug} value={each.slug}>
                {each.name}
              </MenuItem>
            ))}
        </Select>
      </div>
      <table className="table tags" aria-label="Header and tags">
        <thead>
          <tr>
            <th>Header</th>
            <th>{facts.data.name}</th>
            {others.data && <th>{others.data.name}</th>}
          </tr>
        </thead>
        <tbody>
          {Object.entries(facts.data.header).map(([name, value]) => (
            <tr key={name} data-differs={others.data ? others.data.header[name] !== value : undefined}>
              <td className="soft">{name === "bytes" ? "size" : name}</td>
              <td>{headerValue(name, value)}</td>
              {others.data && <td>{headerValue(name, others.data.header[name] ?? "")}</td>}
            </tr>
          ))}
        </tbody>
        <thead>
          <tr>
            <th>Tag</th>
            <th>What it holds</th>
            {others.data && <th>Copy from {other?.name}</th>}
          </tr>
        </thead>
        <tbody>
          {tags.map((name) => {
            const line = own.get(name)?.line;
            const theirs = theirTags.get(name)?.line;
            return (
              <Fragment key={name}>
                <tr data-differs={others.data ? line !== theirs : undefined}>
                  <td>
                    {[own.get(name), theirTags.get(name)].some(hasMore) ? (
                      <button
                        type="button"
                        className="quiet-button"
                        aria-expanded={tag === name}
                        onClick={() => choose("tag", tag === name ? "" : name)}
                      >
                        {name}
                      </button>
                    ) : (
                      name
                    )}
                  </td>
                  <td>{line ?? <span className="soft">not there</span>}</td>
                  {others.data && (
                    <td>
                      {theirs === undefined ? (
                        <span className="soft">not there</span>
                      ) : (
                        <label>
                          <input
                            type="checkbox"
                            checked={picked.includes(name)}
                            onChange={() =>
                              setPicked(
                                picked.includes(name)
                                  ? picked.filter((each) => each !== name)
                                  : [...picked, name],
                              )
                            }
                          />{" "}
                          {theirs}
                        </label>
                      )}
                    </td>
                  )}
                </tr>
                {tag === name && (
                  <tr>
                    <td colSpan={others.data ? 3 : 2}>
                      <TagLook condition={condition} other={other} tag={name} />
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
      <TakeAway condition={condition} beside={beside} tags={picked} fits={picked.length === 0 || sameSpace} />
      <Through condition={condition} other={other} />
    </main>
  );
}

/** Whether a tag has curves or a table to be looked at, beyond its line. */
const hasMore = (tag?: { curves: object; has_table: boolean }) =>
  tag !== undefined && (tag.has_table || Object.keys(tag.curves).length > 0);

/** What stands in the header, as it is read: a size in words, a digest by its beginning. */
const headerValue = (name: string, value: string) =>
  name === "sha256" ? value.slice(0, 16) : name === "bytes" && value ? bytes(Number(value)) : value;

const CONNECTION: Record<string, string[]> = { Lab: ["L*", "a*", "b*"], XYZ: ["X", "Y", "Z"] };

/** The channels that the curves of one place of a table belong to: of the device's side, or of the connection space. */
function channelsOf(tag: string, place: string, inks: string[], connection: string[]): string[] {
  if (place === "curve") return ["out"];
  const device = tag.startsWith("A2B") ? ["A", "in"] : ["A", "out"];
  if (tag === "gamt" && device.includes(place)) return ["out of gamut"];
  return device.includes(place) ? inks.map(inkName) : connection;
}

/** The curves of a tag drawn, and its table cut. */
function TagLook({ condition, other, tag }: { condition: Condition; other?: Condition; tag: string }) {
  const [level, setLevel] = useState(50);
  const shown = [condition, ...(other ? [other] : [])];
  const facts = [useProfileFacts(condition.slug), useProfileFacts(other?.slug ?? "")];
  const cut = facts.some((each) => each.data?.tags.find((one) => one.tag === tag)?.has_table);
  return (
    <section className="tag-look">
      {cut && (
        <SliderSetting
          label="Cut at"
          value={level}
          min={0}
          max={100}
          text={`${level} %`}
          onMove={setLevel}
          onRest={setLevel}
        />
      )}
      <div className="condition-plots">
        {shown.map((each, at) => {
          const found = facts[at]?.data?.tags.find((one) => one.tag === tag);
          const values = CONNECTION[facts[at]?.data?.header["connection space"] ?? ""] ?? [];
          if (!found)
            return (
              <p key={each.slug} className="soft">
                {each.name} has no tag {tag}.
              </p>
            );
          return (
            <div key={each.slug}>
              {Object.entries(found.curves).map(([place, curves]) => (
                <LinePlot
                  key={place}
                  title={`${each.name}: ${place} curves`}
                  x={{ name: "in", range: [0, 1] }}
                  y={{ name: "out", range: [0, 1] }}
                  digits={3}
                  lines={curves.map((curve, k) => ({
                    name: channelsOf(tag, place, each.inks, values)[k] ?? String(k + 1),
                    color: k % 2 ? "var(--soft)" : "var(--ink)",
                    points: curve.map((value, index) => [index / 64, value] as [number, number]),
                  }))}
                />
              ))}
              {found.has_table && (
                <figure className="plane">
                  <img
                    src={`/api/conditions/${each.slug}/plane.png?tag=${tag}&level=${level / 100}`}
                    alt={`A plane of ${tag} of ${each.name} at ${level} %`}
                  />
                  <figcaption className="soft">
                    {each.name}:{" "}
                    {tag.startsWith("A2B")
                      ? `${values.join(", ")} over the first two inks, the others at ${level} %`
                      : `${tag === "gamt" ? "out of gamut" : each.inks.map(inkName).join(", ")} over ${values[1]} and ${values[2]}, ${values[0]} at ${level} %`}
                  </figcaption>
                </figure>
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}

/** A new file of this profile: another name, tags of the one beside it. */
function TakeAway(props: { condition: Condition; beside: string; tags: string[]; fits: boolean }) {
  const { condition, beside, tags, fits } = props;
  const [name, setName] = useState("");
  const query = new URLSearchParams({ source: beside, tags: tags.join(","), name });
  return (
    <section className="answers">
      <TextField
        size="small"
        label="New name"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button
        href={`/api/conditions/${condition.slug}/put-together.icc?${query}`}
        disabled={(!name.trim() && tags.length === 0) || !fits}
      >
        {tags.length > 0 ? `Write a new file with ${tags.join(", ")} taken over` : "Write a new file"}
      </Button>
      {!fits && <span className="soft">Tables of another color space cannot be taken over.</span>}
    </section>
  );
}

/** Values typed and sent through, beside each other. */
function Through({ condition, other }: { condition: Condition; other?: Condition }) {
  const [toLab, setToLab] = useState<"lab" | "inks">("inks");
  const [intent, setIntent] = useState("relative");
  const [typed, setTyped] = useState("50 0 0\n50 30 30\n30 20 -40");
  const count = toLab === "lab" ? condition.inks.length : 3;
  const { rows, unread } = valueRows(typed, count);
  const beside = other && (toLab === "inks" || other.inks.length === count) ? other.slug : "";
  const through = useThrough(condition.slug, { values: rows, to_lab: toLab === "lab", intent, beside });
  const inks = (slug?: string) => inkNames((slug === other?.slug ? other : condition)?.inks ?? []);
  return (
    <section>
      <h2 className="minor">Evaluate values</h2>
      <div className="through">
        <div>
          <Choice
            label="From"
            value={toLab}
            options={[
              ["inks", `Lab to ${drivenByRgb(condition.inks) ? "R, G, B" : "inks"}`],
              ["lab", `${drivenByRgb(condition.inks) ? "R, G, B" : "Inks"} to Lab`],
            ]}
            onChange={(next) => {
              setToLab(next);
              setTyped(
                next === "inks" ? "50 0 0\n50 30 30\n30 20 -40" : condition.inks.map(() => "40").join(" "),
              );
            }}
          />
          <Choice
            label="Intent"
            value={intent}
            options={[
              ["perceptual", "Perceptual"],
              ["relative", "Relative"],
              ["saturation", "Saturation"],
              ["absolute", "Absolute"],
            ]}
            onChange={setIntent}
          />
          <TextField
            multiline
            minRows={4}
            size="small"
            fullWidth
            value={typed}
            slotProps={{ htmlInput: { "aria-label": `Values, ${count} a line` } }}
            onChange={(event) => setTyped(event.target.value)}
          />
          {unread.length > 0 && (
            <span role="status">
              {unread.length === 1 ? "Line" : "Lines"} {unread.join(", ")}: not {count} numbers, left aside.
            </span>
          )}
        </div>
        <table className="table">
          <thead>
            <tr>
              <th>In</th>
              {through.data?.through.map((sent, at) => (
                <th key={sent.name} className="number">
                  {sent.name}, {toLab === "lab" ? "L* a* b*" : inks(at ? other?.slug : condition.slug)}
                </th>
              ))}
              {through.data?.delta_e && <th className="number">ΔE00</th>}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, at) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows are what was typed, line by line
              <tr key={at}>
                <td className="number">{row.join("  ")}</td>
                {through.data?.through.map((sent) => (
                  <td key={sent.name} className="number">
                    <span className="chip" style={{ background: hex(sent.rgb[at]) }} />
                    {sent.out[at]?.map((value) => fixed(value)).join("  ")}
                  </td>
                ))}
                {through.data?.delta_e && (
                  <td className="number">{fixed(through.data.delta_e[at] ?? 0, 2)}</td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {through.error && <p className="notice">{through.error.message}</p>}
    </section>
  );
}

const hex = (code = 0) => `#${code.toString(16).padStart(6, "0")}`;
