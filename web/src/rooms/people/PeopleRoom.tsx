import "./PeopleRoom.css";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useState } from "react";
import { useSession } from "../../api/queries";
import { type Person, type Role, useOwnPassword, usePeople, usePeopleActions } from "../../api/recordQueries";
import { Revisions } from "../../shared/ui/History";

const ROLES: [Role, string][] = [
  ["operator", "artwork, recipes and runs"],
  ["color lead", "also conditions, media, tolerances, characterizations"],
  ["prepress lead", "also house rules"],
  ["administrator", "everything, and people"],
];

/** Who there is, what they may change, and who changed what. */
export function PeopleRoom() {
  const session = useSession().data;
  const administers = session?.may.includes("people") ?? false;
  const people = usePeople(administers);
  return (
    <main className="room">
      <header>
        <div>
          <h1 tabIndex={-1}>People</h1>
          <p className="soft">
            Everybody may look at everything; what somebody may change is said by the role.
          </p>
        </div>
      </header>
      {administers ? (
        <Accounts />
      ) : (
        <p>You are here as {session?.role}. Roles are given by the administrator.</p>
      )}
      {!(administers && people.isPending) && (
        <>
          <OwnPassword />
          <section>
            <h2>What was changed lately</h2>
            <Revisions kind="" />
          </section>
        </>
      )}
    </main>
  );
}

function Accounts() {
  const people = usePeople();
  const { add, change } = usePeopleActions();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [role, setRole] = useState<Role>("operator");
  if (people.isPending) return null;
  const failed = people.error ?? add.error ?? change.error;
  return (
    <section>
      {failed && (
        <p className="notice" role="alert">
          {failed.message}
        </p>
      )}
      <table className="table people">
        <thead>
          <tr>
            <th>Name</th>
            <th>Role</th>
            <th>May come in</th>
            <th>New password</th>
          </tr>
        </thead>
        <tbody>
          {people.data?.map((person) => (
            <Account
              key={person.id}
              person={person}
              onChange={(changed) =>
                change.mutate({
                  id: person.id,
                  role: person.role,
                  active: person.active,
                  password: "",
                  version: person.version,
                  ...changed,
                })
              }
            />
          ))}
        </tbody>
      </table>
      <form
        className="new-person"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(
            { name, password, role },
            {
              onSuccess: () => {
                setName("");
                setPassword("");
              },
            },
          );
        }}
      >
        <h2 className="minor">Add somebody</h2>
        <input
          className="plain-input"
          aria-label="Name of the account"
          placeholder="Name"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <input
          className="plain-input"
          type="password"
          autoComplete="new-password"
          aria-label="Password, at least 10 letters"
          placeholder="Password, at least 10 letters"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        <RoleChoice label="Role of the new account" value={role} onChange={setRole} />
        <Button type="submit" variant="contained" disabled={!name.trim() || !password || add.isPending}>
          Add
        </Button>
      </form>
    </section>
  );
}

function Account({
  person,
  onChange,
}: {
  person: Person;
  onChange: (changed: Partial<Person> & { password?: string }) => void;
}) {
  const [password, setPassword] = useState("");
  return (
    <tr>
      <td className="strong">{person.name}</td>
      <td>
        <RoleChoice
          label={`Role of ${person.name}`}
          value={person.role}
          onChange={(role) => onChange({ role })}
        />
      </td>
      <td>
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={person.active}
              slotProps={{ input: { "aria-label": `${person.name} may come in` } }}
              onChange={(event) => onChange({ active: event.target.checked })}
            />
          }
          label={person.active ? "yes" : "no"}
        />
      </td>
      <td>
        <input
          className="plain-input"
          type="password"
          autoComplete="new-password"
          aria-label={`New password of ${person.name}`}
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />{" "}
        {password && (
          <button
            type="button"
            className="quiet-button"
            onClick={() => {
              onChange({ password });
              setPassword("");
            }}
          >
            Set it
          </button>
        )}
      </td>
    </tr>
  );
}

function RoleChoice({
  label,
  value,
  onChange,
}: {
  label: string;
  value: Role;
  onChange: (role: Role) => void;
}) {
  return (
    <Select
      size="small"
      value={value}
      inputProps={{ "aria-label": label }}
      renderValue={(role) => role}
      onChange={(event) => onChange(event.target.value as Role)}
    >
      {ROLES.map(([role, may]) => (
        <MenuItem key={role} value={role}>
          <span>
            {role} <span className="soft">{may}</span>
          </span>
        </MenuItem>
      ))}
    </Select>
  );
}

function OwnPassword() {
  const save = useOwnPassword();
  const [present, setPresent] = useState("");
  const [fresh, setFresh] = useState("");
  return (
    <form
      className="new-person"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(
          { present, new: fresh },
          {
            onSuccess: () => {
              setPresent("");
              setFresh("");
            },
          },
        );
      }}
    >
      <h2 className="minor">Your own password</h2>
      <input
        className="plain-input"
        type="password"
        autoComplete="current-password"
        aria-label="Present password"
        placeholder="Present"
        value={present}
        onChange={(event) => setPresent(event.target.value)}
      />
      <input
        className="plain-input"
        type="password"
        autoComplete="new-password"
        aria-label="New password, at least 10 letters"
        placeholder="New, at least 10 letters"
        value={fresh}
        onChange={(event) => setFresh(event.target.value)}
      />
      <Button type="submit" disabled={!present || !fresh || save.isPending}>
        Change it
      </Button>
      {save.isSuccess && <span role="status">Changed; other sessions of yours have ended.</span>}
      {save.error && (
        <span className="notice" role="alert">
          {save.error.message}
        </span>
      )}
    </form>
  );
}
