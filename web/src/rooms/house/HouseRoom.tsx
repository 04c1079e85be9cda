import "./HouseRoom.css";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useRef, useState } from "react";
import type { HouseRules, RuleSet } from "../../api/client";
import { useHouse, useRuleSets } from "../../api/houseQueries";
import { useSession } from "../../api/queries";
import { Choice } from "../../shared/ui/Choice";
import { FileInput } from "../../shared/ui/FileInput";
import { History } from "../../shared/ui/History";
import { ProfileChoice } from "../../shared/ui/ProfileChoice";
import { RemovedLately } from "../../shared/ui/Removed";

const FRESH: HouseRules = {
  name: "",
  rgb: "opRGB",
  gray: "sRGB",
  cmyk: "",
  intent: "relative",
  bpc: true,
  display: "sRGB",
  mark_color: [255, 255, 255],
  untagged: "ask",
  differing: "keep",
  results_days: null,
};
const COLORS: [string, string][] = [
  ["255,255,255", "White"],
  ["0,0,0", "Black"],
  ["190,255,0", "Lime"],
];

/** Sets of house rules: which is in use, what each says, handed on as files. */
export function HouseRoom() {
  const sets = useRuleSets();
  const { use, remove, bringIn } = useHouse();
  const [open, setOpen] = useState<number | "new">();
  const input = useRef<HTMLInputElement>(null);
  const mayChange = useSession().data?.may.includes("house") ?? false;
  const chosen = sets.data?.find((each) => each.id === open);
  const failed = sets.error ?? use.error ?? remove.error ?? bringIn.error;
  return (
    <main className="room">
      <header>
        <div>
          <h1 tabIndex={-1}>House rules</h1>
          <p className="soft">
            What the house takes for granted, and what it does with artwork that says something else, or
            nothing. The set in use holds for everyone, for artwork taken in from now on.
          </p>
        </div>
        <div className="answers">
          <Button onClick={() => input.current?.click()}>Import a set</Button>
          <Button onClick={() => setOpen("new")}>New set</Button>
        </div>
        <FileInput
          at={input}
          label="House rules as a file"
          accept=".json"
          onFile={(file) => bringIn.mutate(file)}
        />
      </header>
      {failed && (
        <p className="notice" role="alert">
          {failed.message}
        </p>
      )}
      <div className="house-rules">
        <table className="table">
          <thead>
            <tr>
              <th>Set</th>
              <th>RGB</th>
              <th>No profile</th>
              <th>Another profile</th>
              <th>
                <span className="visually-hidden">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {sets.data?.length === 0 && (
              <tr>
                <td colSpan={5}>
                  No set yet: artwork without a profile is asked about, everything else stays as it came.
                </td>
              </tr>
            )}
            {sets.data?.map((set) => (
              <tr key={set.id}>
                <td>
                  <span className="strong">{set.rules.name}</span>
                  {set.in_use && <span> · in use</span>}
                </td>
                <td>{set.rules.rgb.length === 64 ? "a stored profile" : set.rules.rgb}</td>
                <td>{set.rules.untagged}</td>
                <td>{set.rules.differing}</td>
                <td className="unbroken">
                  <span className="answers">
                    {!set.in_use && (
                      <button
                        type="button"
                        className="quiet-button"
                        aria-label={`Use for everyone: ${set.rules.name}`}
                        onClick={() => use.mutate(set.id)}
                      >
                        Use for everyone
                      </button>
                    )}
                    <button
                      type="button"
                      className="quiet-button"
                      aria-label={`Change ${set.rules.name}`}
                      onClick={() => setOpen(set.id)}
                    >
                      Change
                    </button>
                    <a href={`/api/house/rules/${set.id}/file`} aria-label={`Export ${set.rules.name}`}>
                      Export
                    </a>
                    {!set.in_use && (
                      <button
                        type="button"
                        className="quiet-button"
                        aria-label={`Remove ${set.rules.name}`}
                        onClick={() => remove.mutate(set.id)}
                      >
                        Remove
                      </button>
                    )}
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {open && <RulesForm key={String(open)} set={chosen} onDone={() => setOpen(undefined)} />}
      </div>
      <RemovedLately />
      {chosen && <History kind="house rules" recordKey={String(chosen.id)} mayChange={mayChange} />}
    </main>
  );
}

function RulesForm({ set, onDone }: { set: RuleSet | undefined; onDone: () => void }) {
  const { save } = useHouse();
  // What somebody else saved meanwhile does not take away what is being set here: saving says so.
  const [rules, setRules] = useState<HouseRules>(set?.rules ?? FRESH);
  const [looked, setLooked] = useState(set?.version ?? 0);
  const newer = set !== undefined && set.version !== looked;
  const change = (part: Partial<HouseRules>) => setRules((now) => ({ ...now, ...part }));
  return (
    <form
      className="rules-form"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate({ id: set?.id, rules, version: looked }, { onSuccess: onDone });
      }}
    >
      <label className="setting wide">
        <span>Name</span>
        <input
          className="field"
          value={rules.name}
          onChange={(event) => change({ name: event.target.value })}
        />
      </label>
      <section>
        <h2 className="minor">RGB artwork is in</h2>
        <ProfileChoice label="House RGB" value={rules.rgb} space="RGB" onChange={(rgb) => change({ rgb })} />
      </section>
      <section>
        <h2 className="minor">CMYK artwork is in</h2>
        <ProfileChoice
          label="House CMYK"
          value={rules.cmyk}
          space="CMYK"
          first={[["", "nothing the house says"]]}
          onChange={(cmyk) => change({ cmyk })}
        />
      </section>
      <Choice
        label="Gray follows"
        value={rules.gray}
        options={["sRGB", "opRGB", "ROMM"].map((each) => [each, each] as const)}
        onChange={(gray) => change({ gray })}
      />
      <Choice
        label="No profile"
        value={rules.untagged}
        options={[
          ["keep", "Keep"],
          ["assume", "Assume"],
          ["ask", "Ask"],
        ]}
        onChange={(untagged) => change({ untagged })}
      />
      <Choice
        label="Another profile"
        value={rules.differing}
        options={[
          ["keep", "Keep"],
          ["assume", "Assume"],
          ["convert", "Convert"],
          ["ask", "Ask"],
        ]}
        onChange={(differing) => change({ differing })}
      />
      <Choice
        label="Intent"
        value={rules.intent}
        options={[
          ["perceptual", "Perceptual"],
          ["relative", "Relative"],
          ["saturation", "Saturation"],
          ["absolute", "Absolute"],
        ]}
        onChange={(intent) => change({ intent })}
      />
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={rules.bpc}
            onChange={(event) => change({ bpc: event.target.checked })}
          />
        }
        label="Black point compensation"
      />
      <section>
        <h2 className="minor">Display, where a browser has not chosen</h2>
        <ProfileChoice
          label="House display"
          value={rules.display}
          space="RGB"
          onChange={(display) => change({ display })}
        />
      </section>
      <Choice
        label="Marking color"
        value={rules.mark_color.join()}
        options={COLORS}
        onChange={(value) => change({ mark_color: value.split(",").map(Number) as [number, number, number] })}
      />
      <Choice
        label="Files of runs are kept"
        value={String(rules.results_days ?? "")}
        options={[
          ["", "Until removed"],
          ...[...new Set([30, 90, 365, ...(rules.results_days ? [rules.results_days] : [])])]
            .sort((a, b) => a - b)
            .map((days) => [String(days), `${days} days`] as const),
        ]}
        onChange={(value) => change({ results_days: value ? Number(value) : null })}
      />
      <p className="soft">
        After that a run keeps its sheet and all that it was made of: its file can be made again, to the bit.
      </p>
      {(save.error || newer) && (
        <p className="notice" role="alert">
          {save.error?.message ?? "Somebody else changed this set in the meantime."}{" "}
          {newer && (
            <>
              <button
                type="button"
                className="quiet-button"
                onClick={() => {
                  setRules(set.rules);
                  setLooked(set.version);
                  save.reset();
                }}
              >
                Show theirs
              </button>{" "}
              <button
                type="button"
                className="quiet-button"
                onClick={() => {
                  setLooked(set.version);
                  save.reset();
                }}
              >
                Keep mine
              </button>
            </>
          )}
        </p>
      )}
      <div className="answers">
        <Button type="submit" variant="contained" disabled={!rules.name.trim() || save.isPending}>
          Save the set
        </Button>
        <Button onClick={onDone}>Close</Button>
      </div>
    </form>
  );
}
