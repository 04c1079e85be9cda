import Button from "@mui/material/Button";
import { type ReactNode, useRef, useState } from "react";
import type { Recipe } from "../../../api/client";
import { type KeptSettings as Kept, useKeptSettings } from "../../../api/houseQueries";
import { FileInput } from "../../../shared/ui/FileInput";
import { History } from "../../../shared/ui/History";

interface Props {
  station: Kept["station"];
  /** What they are called here: "ink settings", "recipe". */
  word: string;
  /** Inks that these are made for; none where inks do not matter. */
  inks: string[];
  recipe: Recipe;
  /** Of the recipe, the station counts. */
  onUse: (kept: Recipe) => void;
  /** Where else such settings can be had from. */
  children?: ReactNode;
}

/** Settings kept under names, shared by the house: save these, use others that fit, hand them on. */
export function KeptSettings({ station, word, inks, recipe, onUse, children }: Props) {
  const { list, save, remove, importFile } = useKeptSettings(station);
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState<number>();
  const input = useRef<HTMLInputElement>(null);
  const fits = list.filter((each) => !each.inks.length || each.inks.join() === inks.join());
  const found = fits.find((each) => each.id === chosen);
  const error = save.error ?? remove.error ?? importFile.error;
  return (
    <section>
      <button type="button" className="quiet-button" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? `Hide saved ${word}` : `Saved ${word}${fits.length ? `, ${fits.length} that fit` : ""}`}
      </button>
      {open && (
        <>
          <form
            className="beside"
            onSubmit={(event) => {
              event.preventDefault();
              const version = list.find((each) => each.name === name.trim())?.version ?? 0;
              save.mutate({ station, name, inks, recipe, version }, { onSuccess: () => setName("") });
            }}
          >
            <input
              className="field"
              aria-label={`Name for these ${word}`}
              placeholder="Name for these"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button type="submit" disabled={!name.trim() || save.isPending}>
              Save
            </Button>
          </form>
          {fits.length > 0 && (
            <select
              className="field"
              aria-label={`Saved ${word}`}
              value={found ? found.id : ""}
              onChange={(event) => {
                const next = fits.find((each) => each.id === Number(event.target.value));
                setChosen(next?.id);
                if (next) onUse(next.recipe);
              }}
            >
              <option value="">Use saved ones</option>
              {fits.map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          )}
          {children}
          <div className="run-links">
            <button type="button" className="quiet-button soft" onClick={() => input.current?.click()}>
              Import
            </button>
            {found && (
              <>
                <a href={`/api/house/settings/${found.id}/file`}>Export</a>
                <button type="button" className="quiet-button soft" onClick={() => remove.mutate(found.id)}>
                  Remove {found.name}
                </button>
              </>
            )}
          </div>
          <FileInput
            at={input}
            label={`File of ${word}`}
            accept=".json"
            onFile={(file) => importFile.mutate(file)}
          />
          {found && <History kind="settings" recordKey={`${station} ${found.name}`} mayChange />}
          {list.length > fits.length && (
            <p className="soft">{list.length - fits.length} more are for other inks.</p>
          )}
          {error && (
            <p className="notice" role="alert">
              {error.message}
            </p>
          )}
        </>
      )}
    </section>
  );
}
