import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useColorLists, useSpotsOfList } from "../../api/colorQueries";
import type { Output, Policy } from "../../api/policyQueries";
import { useConditions } from "../../api/queries";
import { ProfileChoice, SPACES } from "../../shared/ui/ProfileChoice";
import { SettingName } from "../../shared/ui/SettingName";
import { INTENTS } from "./rowWords";

interface Props {
  output: Output;
  mayChange: boolean;
  onSave: (part: Partial<Pick<Output, "condition" | "policy">>) => void;
}

const NOTHING: [string, string] = ["", "nothing: refused"];

/** Of which space a profile has to be that says what numbers of a kind mean, and what may stand for one. */
const meanings = (toInks: boolean): ["rgb" | "cmyk" | "gray", string, string, [string, string][]][] => [
  ["rgb", "RGB", "RGB", toInks ? [NOTHING] : [NOTHING, ["destination", "the destination's own"]]],
  ["cmyk", "CMYK", "CMYK", toInks ? [NOTHING, ["destination", "the condition's own"]] : [NOTHING]],
  [
    "gray",
    "Gray",
    "GRAY",
    [
      NOTHING,
      ["gray", "sRGB's curve"],
      ...(toInks ? [["destination", "the condition's black"] as [string, string]] : []),
    ],
  ],
];

/** Around the rows: where everything goes, and what is assumed where a job says nothing. */
export function PolicyAssumptions({ output, mayChange, onSave }: Props) {
  const conditions = useConditions().data ?? [];
  const { policy } = output;
  const toInks = policy.into === "condition";
  const change = (part: Partial<Policy>) => onSave({ policy: { ...policy, ...part } });
  return (
    <>
      <div className="pair">
        <SettingName name="Everything goes into" />
        <Select
          size="small"
          disabled={!mayChange}
          value={toInks ? output.condition : policy.into}
          inputProps={{ "aria-label": "Destination" }}
          onChange={(event) => {
            const chosen: string = event.target.value;
            const into = SPACES.includes(chosen) ? chosen : "condition";
            onSave({ condition: into === "condition" ? chosen : "", policy: { ...policy, into } });
          }}
        >
          {conditions.map((each) => (
            <MenuItem key={each.slug} value={each.slug}>
              {each.name}
            </MenuItem>
          ))}
          {SPACES.map((space) => (
            <MenuItem key={space} value={space}>
              {space}
            </MenuItem>
          ))}
        </Select>
      </div>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            disabled={!mayChange}
            checked={policy.intent_wins}
            onChange={(_, intent_wins) => change({ intent_wins })}
          />
        }
        label="The job's own output intent wins"
      />
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            disabled={!mayChange}
            checked={policy.profiles_count ?? true}
            onChange={(_, profiles_count) => change({ profiles_count })}
          />
        }
        label="Profiles in the job count"
      />
      {meanings(toInks).map(([kind, name, space, words]) => (
        <div key={kind} className="pair meaning">
          <span>{name} without a profile means</span>
          <ProfileChoice
            compact
            label={`${name} without a profile`}
            disabled={!mayChange}
            value={policy[kind] ?? ""}
            space={space}
            first={words}
            onChange={(choice) => change({ [kind]: choice })}
          />
        </div>
      ))}
      <div className="pair">
        <SettingName name="Intent if the job names none" />
        <Select
          size="small"
          disabled={!mayChange}
          value={policy.intent}
          inputProps={{ "aria-label": "Intent if the job names none" }}
          onChange={(event) =>
            change({ intent: INTENTS.find((intent) => intent === event.target.value) ?? policy.intent })
          }
        >
          {INTENTS.map((intent) => (
            <MenuItem key={intent} value={intent}>
              {intent}
            </MenuItem>
          ))}
        </Select>
      </div>
      <SpotInks output={output} mayChange={mayChange} change={(next) => onSave({ policy: next })} />
    </>
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
