import "./BuildPage.css";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Condition } from "../../api/client";
import {
  type BuildSettings,
  useBuild,
  useBuildSettings,
  usePresets,
  useVariant,
} from "../../api/conditionQueries";
import { useRuns } from "../../api/queries";
import { fixed, lab, percent } from "../../shared/figures";
import { drivenByRgb, inkColor, inkNames } from "../../shared/inks";
import { LinePlot } from "../../shared/plots/LinePlot";
import { usePreference } from "../../shared/preferences";
import { BlackSettings } from "../../shared/ui/BlackSettings";
import { Choice } from "../../shared/ui/Choice";
import { NotHere } from "../../shared/ui/NotHere";
import { PerceptualStyle } from "../../shared/ui/PerceptualStyle";
import { RunLine } from "../../shared/ui/RunLine";
import { SettingName } from "../../shared/ui/SettingName";
import { SingleInkLimits } from "../../shared/ui/SingleInkLimits";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import { ConditionHead } from "./ConditionHead";
import { OwnPresets } from "./OwnPresets";
import { useOneCondition } from "./useOneCondition";

/** Settings of a profile with what they give, live; nothing is written before it is built. */
export function BuildPage() {
  const { condition, instead } = useOneCondition();
  const begun = useBuildSettings(condition?.slug ?? "");
  if (!condition) return instead;
  if (begun.error) return <NotHere title="Build">{begun.error.message}</NotHere>;
  if (!begun.data) return <p className="room soft">Reading the settings</p>;
  return <Build key={condition.slug} condition={condition} begun={begun.data} />;
}

function Build({ condition, begun }: { condition: Condition; begun: BuildSettings }) {
  const presets = usePresets();
  const build = useBuild(condition.slug);
  const runs = useRuns();
  const from = JSON.stringify(begun);
  const fresh = { ...begun, name: `${begun.name}, variant` };
  // What was set stays over a look at another page, as long as the profile that it began with is the same.
  const [left, setLeft] = usePreference<{ from: string; settings: BuildSettings } | null>(
    `build.${condition.slug}`,
    null,
  );
  const settings = left?.from === from ? left.settings : fresh;
  const setSettings = (next: BuildSettings) => setLeft({ from, settings: next });
  const changed = JSON.stringify(settings) !== JSON.stringify(fresh);
  const [kept, setKept] = useState<BuildSettings>(begun);
  const found = useVariant(condition.slug, settings);
  const before = useVariant(condition.slug, kept);
  const [run, setRun] = useState<number>();
  const { limits, black } = settings;
  const hasBlack = condition.inks.includes("K");
  const change = (part: Partial<BuildSettings>) => setSettings({ ...settings, ...part });
  const withTotal = (total_percent: number) => change({ limits: { ...limits, total_percent } });
  const now = found.data;
  const then = before.data;
  const asked = runs.data?.find((each) => each.id === run);
  const inkLines = (rows: number[][], dash?: string) =>
    condition.inks.map((ink, k) => ({
      name: dash ? `${ink} kept` : ink,
      color: inkColor(ink),
      dash,
      unnamed: dash !== undefined,
      points: rows.map((row) => [row[0] ?? 0, (row[k + 1] ?? 0) * 100] as [number, number]),
    }));
  return (
    <main className="room">
      <ConditionHead condition={condition} />
      <div className="build">
        <section>
          <div className="setting wide">
            <SettingName name="Name of the profile" />
            <TextField
              size="small"
              value={settings.name}
              slotProps={{ htmlInput: { "aria-label": "Name of the profile" } }}
              onChange={(event) => change({ name: event.target.value })}
            />
          </div>
          {!drivenByRgb(condition.inks) && (
            <>
              <div className="setting wide">
                <SettingName name="Start from" />
                <Select
                  size="small"
                  displayEmpty
                  value=""
                  renderValue={() => "A process"}
                  inputProps={{ "aria-label": "Start from a process" }}
                  onChange={(event) => {
                    const preset = presets.data?.find((each) => each.key === event.target.value);
                    if (!preset) return;
                    const most = Math.min(preset.total_percent, 100 * condition.inks.length);
                    change({
                      limits: { ...limits, total_percent: most },
                      black: hasBlack ? preset.black : black,
                    });
                  }}
                >
                  {presets.data?.map((preset) => (
                    <MenuItem key={preset.key} value={preset.key}>
                      {preset.name}, {percent(preset.total_percent)}.{" "}
                      {preset.own ? "The house's own." : preset.why}
                    </MenuItem>
                  ))}
                </Select>
              </div>
              <OwnPresets settings={settings} />
              <SliderSetting
                label="Total ink"
                value={limits.total_percent}
                min={60}
                max={Math.min(100 * condition.inks.length, 400)}
                mark={kept.limits.total_percent}
                text={percent(limits.total_percent)}
                onMove={withTotal}
                onRest={withTotal}
              />
            </>
          )}
          {hasBlack && (
            <BlackSettings
              black={black}
              beside={kept.black}
              onMove={(next) => change({ black: next })}
              onRest={(next) => change({ black: next })}
            />
          )}
          {!drivenByRgb(condition.inks) && (
            <SingleInkLimits
              inks={condition.inks}
              limits={limits}
              onMove={(next) => change({ limits: next })}
              onRest={(next) => change({ limits: next })}
            />
          )}
          <PerceptualStyle value={settings.style ?? "steady"} onChange={(style) => change({ style })} />
          <SliderSetting
            label="Added chroma"
            value={settings.chroma_percent ?? 0}
            min={-30}
            max={30}
            text={percent(settings.chroma_percent ?? 0)}
            onMove={(chroma_percent) => change({ chroma_percent })}
            onRest={(chroma_percent) => change({ chroma_percent })}
          />
          {(["a*", "b*"] as const).map((axis, at) => (
            <SliderSetting
              key={axis}
              label={`Gray balance, ${axis}`}
              value={settings.gray_balance?.[at] ?? 0}
              min={-5}
              max={5}
              step={0.1}
              text={fixed(settings.gray_balance?.[at] ?? 0)}
              onMove={(value) => change({ gray_balance: moved(settings, at, value) })}
              onRest={(value) => change({ gray_balance: moved(settings, at, value) })}
            />
          ))}
          <Choice
            label="Grid points a side"
            value={settings.grid ?? 33}
            options={[
              [17, "17"],
              [33, "33"],
              [49, "49"],
            ]}
            onChange={(grid) => change({ grid })}
          />
          <Choice
            label="ICC"
            value={settings.version?.[0] === 2 ? 2 : 4}
            options={[
              [4, "Version 4"],
              [2, "Version 2"],
            ]}
            onChange={(major) => change({ version: [major, 4] })}
          />
          <div className="setting wide">
            <SettingName name="Copyright" />
            <TextField
              size="small"
              placeholder="No rights are stated."
              value={settings.copyright ?? ""}
              slotProps={{ htmlInput: { maxLength: 500, "aria-label": "Copyright" } }}
              onChange={(event) => change({ copyright: event.target.value })}
            />
          </div>
          <div className="answers">
            <Button
              variant="contained"
              disabled={build.isPending || !settings.name.trim()}
              onClick={() =>
                build.mutate(settings, { onSuccess: (made) => setRun(made.run_id ?? undefined) })
              }
            >
              Build this profile
            </Button>
            <Button onClick={() => setKept(settings)}>Keep as comparison</Button>
            {changed && (
              <button type="button" className="quiet-button" onClick={() => setLeft(null)}>
                Begin again
              </button>
            )}
          </div>
          <p className="soft">It becomes a condition of its own, in draft; this one stays as it is.</p>
          {build.error && <p className="notice">{build.error.message}</p>}
          {asked && <RunLine run={asked} />}
        </section>
        <section className="build-shown" data-stale={found.isPlaceholderData}>
          {found.error && <p className="notice">{found.error.message}</p>}
          <table className="table" aria-label="Now against kept">
            <thead>
              <tr>
                <th>
                  <span className="visually-hidden">Figure</span>
                </th>
                <th className="number">Now</th>
                <th className="number">Kept</th>
                <th className="number">Change</th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <td>Black point, L*a*b*</td>
                <td className="number">{now ? lab(now.black_lab) : "…"}</td>
                <td className="number">{then ? lab(then.black_lab) : "…"}</td>
                <td className="number">
                  {now && then ? `${signed((now.black_lab[0] ?? 0) - (then.black_lab[0] ?? 0), 1)} L*` : ""}
                </td>
              </tr>
              {!drivenByRgb(condition.inks) && (
                <tr>
                  <td>Its inks, {inkNames(condition.inks)}</td>
                  <td className="number">{now ? inks(now.black_inks) : "…"}</td>
                  <td className="number">{then ? inks(then.black_inks) : "…"}</td>
                  <td className="number">
                    {now && then ? `${signed((sum(now.black_inks) - sum(then.black_inks)) * 100, 0)} %` : ""}
                  </td>
                </tr>
              )}
              <tr>
                <td>Gamut, 1000 ΔE³</td>
                <td className="number">{now ? fixed(now.gamut_volume / 1000) : "…"}</td>
                <td className="number">{then ? fixed(then.gamut_volume / 1000) : "…"}</td>
                <td className="number">
                  {now && then
                    ? `${signed((now.gamut_volume / Math.max(then.gamut_volume, 1) - 1) * 100, 1)} %`
                    : ""}
                </td>
              </tr>
            </tbody>
          </table>
          {!drivenByRgb(condition.inks) && (
            <div className="condition-plots">
              <LinePlot
                title="Separation of the grays"
                note="dashed: as the condition is kept"
                x={{ name: "L*, paper to black", short: "L*", range: [100, 0] }}
                y={{ name: "ink", unit: "%", range: [0, 100] }}
                lines={[
                  ...(then ? inkLines(then.gray_inks, "3 3") : []),
                  ...(now ? inkLines(now.gray_inks) : []),
                ]}
              />
              <LinePlot
                title="Total ink against darkness"
                note="drag the limit, or move it by arrow keys"
                x={{ name: "total ink", unit: "%", range: [60, Math.min(100 * condition.inks.length, 400)] }}
                y={{
                  name: "L* of neutral black",
                  range: [0, Math.max(60, ...(now?.darkness ?? []).map(([, lightness]) => lightness ?? 0))],
                }}
                dots
                lines={
                  now ? [{ name: "", color: "var(--ink)", points: now.darkness as [number, number][] }] : []
                }
                handles={[
                  {
                    name: "Total ink limit",
                    at: limits.total_percent,
                    text: percent(limits.total_percent),
                    onMove: (value) => withTotal(Math.round(value)),
                    onRest: (value) => withTotal(Math.round(value)),
                  },
                ]}
              />
            </div>
          )}
        </section>
      </div>
    </main>
  );
}

function moved(settings: BuildSettings, at: number, value: number): [number, number] {
  const [a = 0, b = 0] = settings.gray_balance ?? [0, 0];
  return at === 0 ? [value, b] : [a, value];
}

const sum = (values: number[]) => values.reduce((total, value) => total + value, 0);
const inks = (values: number[]) =>
  `${values.map((value) => fixed(value * 100, 0)).join("  ")}  Σ ${fixed(sum(values) * 100, 0)}`;
const signed = (value: number, digits: number) => {
  const text = fixed(value, digits);
  return value > 0 && Number(text) !== 0 ? `+${text}` : text;
};
