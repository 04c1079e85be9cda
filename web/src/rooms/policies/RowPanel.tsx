import "./RowPanel.css";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useColorLists, useSpotsOfList } from "../../api/colorQueries";
import {
  type Catches,
  type Decisions,
  type Does,
  type Output,
  type Policy,
  type Row,
  useOutputActions,
} from "../../api/policyQueries";
import { useSession } from "../../api/queries";
import { counted, whole } from "../../shared/figures";
import { SettingName } from "../../shared/ui/SettingName";

interface Props {
  output: Output;
  decisions: Decisions | undefined;
  chosen: number | undefined;
  onChoose: (row: number | undefined) => void;
}

const SPACES = ["gray", "RGB", "CMYK", "Lab", "spot"] as const;
const OBJECTS = [
  ["text", "text"],
  ["line art", "line art"],
  ["image", "pictures"],
  ["shading", "shadings"],
] as const;
const COLORS = [
  ["any", "any color"],
  ["pure black", "pure black"],
  ["pure ink", "a single ink"],
  ["equal RGB", "equal RGB"],
  ["near neutral", "near neutral"],
  ["solids", "solids"],
] as const;
/** What a new row catches until somebody says. */
const NEW_CATCHES: Catches = {
  spaces: ["RGB"],
  objects: [],
  tagged: null,
  color: "any",
  spots: [],
  overprint: null,
  ink_over: null,
  ppi_under: null,
  ppi_over: null,
};
const INTENTS = ["perceptual", "relative", "saturation", "absolute"] as const;
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

/** The rows of a policy as a sieve: what falls into each, how much of the open document, and what is done with it. */
export function RowPanel({ output, decisions, chosen, onChoose }: Props) {
  const { save } = useOutputActions();
  const mayChange = useSession().data?.may.includes("house") ?? false;
  const rows = output.policy.rows;
  const change = (policy: Policy, then?: number) =>
    save.mutate(
      {
        id: output.id,
        version: output.version,
        data: { ...output, policy },
      },
      { onSuccess: () => then !== undefined && onChoose(then) },
    );
  const put = (next: Row[], then?: number) => change({ ...output.policy, rows: next }, then);
  const swap = (at: number, by: number) => {
    const to = at + by;
    // The last row catches what is left, and stays the last.
    if (to < 0 || to >= rows.length - 1 || at === rows.length - 1) return;
    const next = [...rows];
    const [moved] = next.splice(at, 1);
    if (moved) next.splice(to, 0, moved);
    put(next, to);
  };
  const total = decisions?.objects ?? 0;
  let falling = total;
  return (
    <aside className="rows" aria-label="Policy">
      <header>
        <h2>
          {output.policy.name}, version {output.version}
        </h2>
        <p className="soft">Each color falls until a row catches it.</p>
      </header>
      {save.error && (
        <p className="notice" role="alert">
          {save.error.message}
        </p>
      )}
      <ol className="fall">
        {rows.map((row, at) => {
          const found = decisions?.rows.find((each) => each.row === at + 1);
          const before = falling;
          falling -= found?.objects ?? 0;
          const words = output.words[at];
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
            <li key={at} className={row.off ? "off" : ""}>
              <i
                className="falling"
                style={{ width: total ? Math.max(before ? 1 : 0, (18 * before) / total) : 0 }}
              />
              <button
                type="button"
                aria-pressed={chosen === at}
                aria-expanded={chosen === at}
                onClick={() => onChoose(chosen === at ? undefined : at)}
                onKeyDown={(event) => {
                  if (!event.altKey || !mayChange) return;
                  if (event.key === "ArrowUp") swap(at, -1);
                  if (event.key === "ArrowDown") swap(at, 1);
                }}
              >
                <span>
                  <b>
                    {at + 1} {words?.catches}
                  </b>
                  <span>{row.off ? "off: everything falls through" : words?.does}</span>
                </span>
                <span className="row-count">
                  <b>{found ? whole(found.objects) : "–"}</b>
                  <small>{found ? counted(found.pages, "page") : ""}</small>
                </span>
              </button>
              {chosen === at && mayChange && (
                <RowEditor
                  key={output.version}
                  row={row}
                  last={at === rows.length - 1}
                  onChange={(next) => put(rows.map((each, other) => (other === at ? next : each)))}
                  onMove={(by) => swap(at, by)}
                  onRemove={() => {
                    onChoose(undefined);
                    put(rows.filter((_, other) => other !== at));
                  }}
                />
              )}
            </li>
          );
        })}
      </ol>
      <footer>
        {mayChange && (
          <button
            type="button"
            className="quiet-button"
            onClick={() =>
              put(
                [
                  {
                    catches: NEW_CATCHES,
                    does: { kind: "leave" },
                    off: true,
                  },
                  ...rows,
                ],
                0,
              )
            }
          >
            Add a row at the top
          </button>
        )}
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              disabled={!mayChange}
              checked={output.policy.intent_wins}
              onChange={(_, intent_wins) => change({ ...output.policy, intent_wins })}
            />
          }
          label="The job's own output intent wins"
        />
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              disabled={!mayChange}
              checked={output.policy.profiles_count ?? true}
              onChange={(_, profiles_count) => change({ ...output.policy, profiles_count })}
            />
          }
          label="Profiles in the job count"
        />
        <div className="pair">
          RGB without a profile means
          <Select
            size="small"
            displayEmpty
            disabled={!mayChange}
            value={
              ["", "sRGB", "opRGB", "ROMM", "P3"].includes(output.policy.rgb ?? "") ? output.policy.rgb : ""
            }
            inputProps={{ "aria-label": "RGB without a profile" }}
            onChange={(event) => change({ ...output.policy, rgb: event.target.value ?? "" })}
          >
            <MenuItem value="">nothing: refused</MenuItem>
            {["sRGB", "opRGB", "ROMM", "P3"].map((space) => (
              <MenuItem key={space} value={space}>
                {space}
              </MenuItem>
            ))}
          </Select>
        </div>
        <SpotInks output={output} mayChange={mayChange} change={change} />
      </footer>
    </aside>
  );
}

interface SpotProps {
  output: Output;
  mayChange: boolean;
  change: (policy: Policy) => void;
}

/** Spot inks by their own color, from a list, instead of what each job says that they come down to. */
function SpotInks({ output, mayChange, change }: SpotProps) {
  const lists = (useColorLists().data ?? []).filter((each) => each.channels[0] === "L*");
  const take = useSpotsOfList();
  const known = output.policy.spots ?? [];
  return (
    <div className="pair">
      <SettingName name="Spot inks have the color of" />
      <Select
        size="small"
        displayEmpty
        disabled={!mayChange || take.isPending}
        value={known.length ? "known" : ""}
        inputProps={{ "aria-label": "Colors of spot inks" }}
        title={known.map((each) => each.name).join(", ")}
        onChange={(event) => {
          const chosen: string = event.target.value;
          if (chosen === "") change({ ...output.policy, spots: [] });
          else if (chosen !== "known")
            take.mutate(Number(chosen), { onSuccess: (spots) => change({ ...output.policy, spots }) });
        }}
      >
        <MenuItem value="">each job's own words</MenuItem>
        {known.length > 0 && <MenuItem value="known">{known.length} known by the policy</MenuItem>}
        {lists.map((each) => (
          <MenuItem key={each.id} value={String(each.id)}>
            {each.name}, as it is now
          </MenuItem>
        ))}
      </Select>
      {take.error && (
        <span className="notice" role="alert">
          {take.error.message}
        </span>
      )}
    </div>
  );
}

interface EditorProps {
  row: Row;
  last: boolean;
  onChange: (row: Row) => void;
  onMove: (by: number) => void;
  onRemove: () => void;
}

/** What a row catches, and what it does; the last one catches everything. */
function RowEditor({ row, last, onChange, onMove, onRemove }: EditorProps) {
  const { catches, does } = row;
  const caught = (part: Partial<Catches>) => onChange({ ...row, catches: { ...catches, ...part } });
  const converted = (part: Partial<Convert>) =>
    does.kind === "convert" && onChange({ ...row, does: { ...does, ...part } });
  const toggled = <T extends string>(all: readonly T[], one: T): T[] =>
    all.includes(one) ? all.filter((each) => each !== one) : [...all, one];
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
