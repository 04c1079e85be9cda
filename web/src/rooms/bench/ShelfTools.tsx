import "./ShelfTools.css";
import Button from "@mui/material/Button";
import type { Condition } from "../../api/client";
import { type Narrowing, useShelfChoices } from "../../api/shelfQueries";
import { counted } from "../../shared/figures";
import { Choice } from "../../shared/ui/Choice";

interface Props {
  wanted: Narrowing;
  total: number | undefined;
  conditions: Condition[];
  asList: boolean;
  onChange: (wanted: Narrowing) => void;
  onAsList: (asList: boolean) => void;
}

const SORTS: [NonNullable<Narrowing["sort"]>, string][] = [
  ["name", "Name"],
  ["added", "Day added"],
  ["size", "Pixels"],
  ["profile", "Profile"],
];
const SPACES: [NonNullable<Narrowing["space"]>, string][] = [
  ["RGB", "RGB"],
  ["gray", "Gray"],
  ["CMYK", "CMYK"],
  ["Lab", "Lab"],
];
const STATES: [NonNullable<Narrowing["state"]>, string][] = [
  ["asks", "House rules ask"],
  ["no profile", "No profile"],
  ["separated", "Separated"],
  ["not separated", "Not yet separated"],
];

/** Search, sort and filter of the shelf. */
export function ShelfTools({ wanted, total, conditions, asList, onChange, onAsList }: Props) {
  const choices = useShelfChoices().data;
  const narrowed = Object.entries(wanted).some(
    ([name, value]) => value && name !== "sort" && name !== "descending",
  );
  const select = (
    name: "space" | "profile" | "state" | "condition" | "person",
    label: string,
    all: string,
    options: (readonly [string, string])[],
  ) => (
    <label>
      <span>{label}</span>
      <select
        className="field"
        value={wanted[name] ?? ""}
        onChange={(event) => onChange({ ...wanted, [name]: event.target.value })}
      >
        <option value="">{all}</option>
        {options.map(([value, text]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <search className="shelf-tools">
      <label className="grow">
        <span>Search</span>
        <input
          className="field"
          type="search"
          placeholder="Name or profile"
          value={wanted.search ?? ""}
          onChange={(event) => onChange({ ...wanted, search: event.target.value })}
        />
      </label>
      {select("space", "Space", "Any", SPACES)}
      {select("profile", "Profile", "Any", choices?.profiles.map((each) => [each, each] as const) ?? [])}
      {select("state", "State", "Any", STATES)}
      {select(
        "condition",
        "Condition",
        "Any",
        conditions.map((each) => [each.slug, each.name] as const),
      )}
      {select("person", "Added by", "Anyone", choices?.people.map((each) => [each, each] as const) ?? [])}
      <label>
        <span>Added since</span>
        <input
          className="field"
          type="date"
          value={wanted.since ?? ""}
          onChange={(event) => onChange({ ...wanted, since: event.target.value || undefined })}
        />
      </label>
      <label>
        <span>Sort by</span>
        <select
          className="field"
          value={wanted.sort}
          onChange={(event) => onChange({ ...wanted, sort: event.target.value as Narrowing["sort"] })}
        >
          {SORTS.map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
      </label>
      <Button onClick={() => onChange({ ...wanted, descending: !wanted.descending })}>
        {wanted.descending ? "Descending" : "Ascending"}
      </Button>
      <Choice
        bare
        label="How the shelf is shown"
        value={asList ? "list" : "pictures"}
        options={[
          ["pictures", "Pictures"],
          ["list", "List"],
        ]}
        onChange={(value) => onAsList(value === "list")}
      />
      <span className="soft" role="status">
        {total === undefined ? "" : counted(total, "artwork")}
      </span>
      {narrowed && (
        <button
          type="button"
          className="quiet-button"
          onClick={() => onChange({ sort: wanted.sort, descending: wanted.descending })}
        >
          Reset filters
        </button>
      )}
    </search>
  );
}
