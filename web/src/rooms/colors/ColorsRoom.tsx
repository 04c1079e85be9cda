import "./colors.css";
import "./ColorsRoom.css";
import Button from "@mui/material/Button";
import { useDeferredValue, useState } from "react";
import { useSearchParams } from "react-router";
import {
  type KeptRoute,
  type Step,
  type TravelAsked,
  useColorLists,
  useRouteActions,
  useRoutes,
  useTravel,
} from "../../api/colorQueries";
import { useConditions } from "../../api/queries";
import { whole } from "../../shared/figures";
import { drivenByRgb } from "../../shared/inks";
import { NumberField } from "../../shared/ui/NumberField";
import { SPACES } from "../../shared/ui/ProfileChoice";
import { BetweenPanel } from "./BetweenPanel";
import { ColorGrid } from "./ColorGrid";
import { ColorsView } from "./ColorsView";
import { ListsPanel } from "./ListsPanel";
import { OutPanel } from "./OutPanel";
import { RouteLine } from "./RouteLine";
import { useProfileNames } from "./useProfileNames";

type Ordering = Omit<TravelAsked, "list_id" | "steps">;
const AT_FIRST: Ordering = {
  first: 0,
  second: 1,
  light: "D50",
  sort: "given",
  descending: false,
  search: "",
  over: 0,
};

const stepThrough = (profile: string): Step => ({
  profile,
  intent: "relative",
  bpc: true,
  bypassed: false,
  own: false,
  adjustment: null,
  named: "",
});

/** Color lists and routes: a list as a grid, every step's values, the difference between any two, seen in space. */
export function ColorsRoom() {
  const lists = useColorLists();
  const routes = useRoutes();
  const conditions = useConditions().data ?? [];
  const names = useProfileNames();
  const [params, setParams] = useSearchParams();
  const listId = Number(params.get("list")) || lists.data?.[0]?.id;
  const list = lists.data?.find((each) => each.id === listId);
  const routeId = Number(params.get("route")) || undefined;
  const kept = routes.data?.find((each) => each.id === routeId);
  // What was changed by hand lasts until another route is chosen.
  const [own, setOwn] = useState<{ of: number | undefined; steps: Step[] }>();
  const changed = own && own.of === kept?.id ? own.steps : undefined;
  const steps = changed ?? kept?.steps ?? [];
  const [ordering, setOrdering] = useState(AT_FIRST);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [showValues, setShowValues] = useState(true);
  const [out, setOut] = useState(false);

  const asked: TravelAsked | undefined = list && { list_id: list.id, steps, ...ordering };
  const travel = useTravel(useDeferredValue(asked));
  const travelled = asked ? travel.data : undefined;
  const set = (name: "list" | "route", value: number | undefined) => {
    const next = new URLSearchParams(window.location.search);
    value === undefined ? next.delete(name) : next.set(name, String(value));
    setParams(next, { replace: true });
  };
  const order = (part: Partial<Ordering>) => setOrdering({ ...ordering, ...part });
  const separated = new Set(
    conditions.filter((each) => !drivenByRgb(each.inks)).map((each) => each.profile_sha256),
  );
  const stepProfiles = steps.filter((each) => !each.bypassed && each.profile).map((each) => each.profile);
  const hull =
    stepProfiles
      .map(
        (profile) =>
          conditions.find((each) => each.profile_sha256 === profile)?.slug ??
          (SPACES.includes(profile) ? profile : undefined),
      )
      .findLast((each) => each !== undefined && !SPACES.includes(each)) ??
    stepProfiles.find((each) => SPACES.includes(each));
  return (
    <main className="colors">
      <ListsPanel
        lists={lists.data ?? []}
        routes={routes.data ?? []}
        listId={list?.id}
        routeId={routeId}
        names={names}
        onList={(id) => {
          set("list", id);
          setChosen(new Set());
          order({ search: "", over: 0 });
        }}
        onRoute={(route) => {
          setOwn(undefined);
          set("route", route?.id);
        }}
        // Numbers of a device have their colors through its profile: an empty route begins with it.
        onGrid={(profile) => steps.length === 0 && setOwn({ of: kept?.id, steps: [stepThrough(profile)] })}
      />
      <div className="route-head">
        <RouteLine
          steps={steps}
          names={names}
          separated={separated}
          listName={list?.name ?? "No list"}
          count={list?.count}
          travelled={travelled}
          onChange={(next) => setOwn({ of: kept?.id, steps: next })}
        />
        <div className="route-acts">
          <button
            type="button"
            className="quiet-button"
            disabled={steps.length >= 12}
            onClick={() => setOwn({ of: kept?.id, steps: [...steps, stepThrough(names[0]?.[0] ?? "sRGB")] })}
          >
            Add a step
          </button>
          <KeepRoute
            key={kept?.id ?? 0}
            steps={steps}
            kept={kept}
            changed={changed !== undefined}
            onKept={(route) => {
              setOwn(undefined);
              set("route", route.id);
            }}
          />
        </div>
      </div>
      <section className="color-table" aria-label="The list">
        {(lists.error ?? travel.error) && (
          <p className="notice" role="alert">
            {(lists.error ?? travel.error)?.message}
          </p>
        )}
        {lists.data?.length === 0 && (
          <p className="strip-note">
            There is no list yet. Import one, type or paste colors, or sample a piece of artwork at the left.
          </p>
        )}
        {travelled && asked && (
          <>
            <div className="grid-tools">
              <input
                className="field"
                type="search"
                aria-label="Search colors"
                placeholder="Search"
                value={ordering.search}
                onChange={(event) => order({ search: event.target.value })}
              />
              <span>
                ΔE00 above{" "}
                <NumberField
                  label="Only colors with ΔE00 above"
                  className="field short"
                  value={ordering.over}
                  min={0}
                  max={100}
                  onKeep={(over) => order({ over: over ?? 0 })}
                />
              </span>
              <label>
                <input
                  type="checkbox"
                  checked={showValues}
                  onChange={(event) => setShowValues(event.target.checked)}
                />{" "}
                Device values
              </label>
              <span className="soft" role="status">
                {whole(travelled.total)} of {whole(list?.count ?? 0)} listed
                {chosen.size > 0 && `, ${whole(chosen.size)} chosen`}
              </span>
              {chosen.size > 0 && (
                <button type="button" className="quiet-button" onClick={() => setChosen(new Set())}>
                  Choose none
                </button>
              )}
              <button type="button" className="quiet-button" aria-expanded={out} onClick={() => setOut(!out)}>
                Write and judge
              </button>
            </div>
            {out && <OutPanel list={list} steps={steps} names={names} onClose={() => setOut(false)} />}
            <ColorGrid
              asked={asked}
              travelled={travelled}
              chosen={chosen}
              showValues={showValues}
              onChoose={setChosen}
              onSort={(sort) =>
                order(
                  ordering.sort !== sort
                    ? { sort, descending: sort === "difference" }
                    : sort !== "difference" && ordering.descending
                      ? { sort: "given", descending: false }
                      : { descending: !ordering.descending },
                )
              }
            />
          </>
        )}
      </section>
      {asked && travelled && <ColorsView asked={asked} list={list} chosen={[...chosen]} hull={hull} />}
      {asked && travelled && <BetweenPanel asked={asked} travelled={travelled} onChange={order} />}
    </main>
  );
}

interface KeepProps {
  steps: Step[];
  kept: KeptRoute | undefined;
  changed: boolean;
  onKept: (route: KeptRoute) => void;
}

/** A route is kept under a name: a new one, or the changed one in the place of what it was. */
function KeepRoute({ steps, kept, changed, onKept }: KeepProps) {
  const { keep } = useRouteActions();
  const [name, setName] = useState(kept?.name ?? "");
  if (!changed) return null;
  const anew = name.trim() !== kept?.name;
  return (
    <form
      className="keep-route"
      onSubmit={(event) => {
        event.preventDefault();
        const body = { name, steps, version: anew ? 0 : (kept?.version ?? 0) };
        keep.mutate(anew ? body : { ...body, id: kept?.id }, { onSuccess: onKept });
      }}
    >
      <input
        className="field"
        aria-label="Name of the route"
        placeholder="Name of the route"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" disabled={!name.trim() || keep.isPending}>
        {anew ? "Save as a route" : "Save the route"}
      </Button>
      {keep.error && (
        <span className="notice" role="alert">
          {keep.error.message}
        </span>
      )}
    </form>
  );
}
