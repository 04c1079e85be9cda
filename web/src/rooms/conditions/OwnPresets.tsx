import Button from "@mui/material/Button";
import { useState } from "react";
import { type BuildSettings, usePresetActions, usePresets } from "../../api/conditionQueries";
import { useSession } from "../../api/queries";
import { percent } from "../../shared/figures";
import { History } from "../../shared/ui/History";

/** The house's own presets: these settings under a name, and what happened to each. */
export function OwnPresets({ settings }: { settings: BuildSettings }) {
  const presets = usePresets();
  const { save, remove } = usePresetActions();
  const mayChange = useSession().data?.may.includes("conditions") ?? false;
  const [name, setName] = useState("");
  const own = presets.data?.filter((each) => each.own) ?? [];
  const failed = save.error ?? remove.error;
  return (
    <details className="own-presets">
      <summary>The house's own presets{own.length > 0 && `: ${own.length}`}</summary>
      <form
        className="beside"
        onSubmit={(event) => {
          event.preventDefault();
          const known = own.find((each) => each.name === name.trim());
          save.mutate(
            {
              name,
              total_percent: settings.limits.total_percent,
              black: settings.black,
              why: "",
              version: known?.version ?? 0,
            },
            { onSuccess: () => setName("") },
          );
        }}
      >
        <input
          className="field"
          aria-label="Name for these settings"
          placeholder="name for these settings"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" disabled={!name.trim() || save.isPending}>
          Save as preset
        </Button>
      </form>
      {failed && (
        <p className="notice" role="alert">
          {failed.message}
        </p>
      )}
      {own.map((preset) => (
        <div key={preset.key}>
          <span className="strong">{preset.name}</span>, {percent(preset.total_percent)}{" "}
          <button type="button" className="quiet-button" onClick={() => remove.mutate(preset.name)}>
            Remove
          </button>
          <History kind="preset" recordKey={preset.name} mayChange={mayChange} />
        </div>
      ))}
    </details>
  );
}
