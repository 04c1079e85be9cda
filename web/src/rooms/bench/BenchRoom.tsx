import "./bench.css";
import "./panels/panels.css";
import "./BenchRoom.css";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { Link, Navigate, useLocation, useNavigate, useParams, useSearchParams } from "react-router";
import type { Adjustment, Artwork, Condition, Recipe, Region } from "../../api/client";
import {
  useArtwork,
  useConditions,
  useDifferences,
  useInkFigures,
  usePins,
  useTrace,
} from "../../api/queries";
import { usePreference } from "../../shared/preferences";
import { ErrorBoundary } from "../../shared/ui/ErrorBoundary";
import { NotHere } from "../../shared/ui/NotHere";
import { Below } from "./Below";
import type { Crop } from "./geometry";
import { HitTable } from "./HitTable";
import { Keys } from "./Keys";
import { knowsItsColors } from "./knowsItsColors";
import { NotSaved } from "./NotSaved";
import { PaletteTable } from "./PaletteTable";
import { PinTable } from "./PinTable";
import { AdjustPanel, NOTHING } from "./panels/AdjustPanel";
import { AimPanel } from "./panels/AimPanel";
import { DeliverPanel } from "./panels/DeliverPanel";
import { hueAt } from "./panels/HueMoves";
import { InkPanel } from "./panels/InkPanel";
import { PlatePanel } from "./panels/PlatePanel";
import { SourcePanel } from "./panels/SourcePanel";
import { isAsked, QuestionStage } from "./QuestionStage";
import { Stage } from "./Stage";
import { StationBar } from "./StationBar";
import { useBenchKeys } from "./useBenchKeys";
import { useDrawing } from "./useDrawing";
import { useRecipe } from "./useRecipe";
import { useSettled } from "./useSettled";
import { type StationName, useViewState } from "./useViewState";
import { VariantSheet } from "./VariantSheet";

/** One artwork at a time, on the line. */
export function BenchRoom() {
  const { artworkId = "", slug } = useParams();
  const { search } = useLocation();
  const [params] = useSearchParams();
  const artwork = useArtwork(Number(artworkId));
  const conditions = useConditions();
  const condition = conditions.data?.find((each) => each.slug === slug);
  const failed = artwork.error ?? conditions.error;
  // What is here already stays on the screen when asking again fails.
  if (!artwork.data || !conditions.data)
    return failed ? (
      <NotHere title="Bench">
        {failed.message} <Link to="/bench">See all artwork</Link>
      </NotHere>
    ) : (
      <p className="room soft">Opening the artwork</p>
    );
  const first = conditions.data[0]?.slug;
  if (!slug && first) return <Navigate to={`/bench/${artworkId}/${first}${search}`} replace />;
  if (!slug)
    return (
      <NotHere title="Bench">
        There is no condition yet to print on. <Link to="/conditions">Make one under Conditions</Link>
      </NotHere>
    );
  if (!condition)
    return (
      <NotHere title="Bench">
        There is no condition '{slug}'; it was removed, or the address is mistyped.{" "}
        <Link to={`/bench/${artworkId}`}>Open the artwork on another one</Link>
      </NotHere>
    );
  // What has no meaning yet is opened where it gets one.
  if (!params.has("at") && (artwork.data.asks.length > 0 || artwork.data.profile_name === ""))
    return <Navigate to={`?${new URLSearchParams([...params, ["at", "source"]])}`} replace />;
  return <Bench key={artworkId} artwork={artwork.data} condition={condition} conditions={conditions.data} />;
}

/** Figures of the settings that are shown; while new ones are computed there are none, never the old ones. */
function current<T>(query: { data: T | undefined; isPlaceholderData: boolean }): T | undefined {
  return query.isPlaceholderData ? undefined : query.data;
}

/** Past the stations, the picture's tools and what else lies before. */
function goTo(selector: string) {
  const found = document.querySelector<HTMLElement>(selector);
  if (found && found.tabIndex < 0) found.tabIndex = -1;
  found?.focus();
}

/** A name that no region has yet. */
function freshName(regions: Region[], kind: string): string {
  for (let count = 1; ; count++) {
    const name = `${kind} ${count}`;
    if (!regions.some((each) => each.name === name)) return name;
  }
}

interface Props {
  artwork: Artwork;
  condition: Condition;
  conditions: Condition[];
}

function Bench({ artwork, condition, conditions }: Props) {
  const control = useRecipe(artwork.id, condition.slug);
  const viewState = useViewState();
  const navigate = useNavigate();
  const [pointed, setPointed] = useState<[number, number]>();
  const [flipped, setFlipped] = useState(false);
  const [keysShown, setKeysShown] = useState(false);
  const [zoomKey, setZoomKey] = useState<{ count: number; direction: -1 | 0 | 1 }>({
    count: 0,
    direction: 0,
  });
  const [crop, setCrop] = useState<Crop>();
  const { pins, drop, take } = usePins(artwork.id);

  // The picture follows at once, what is read at points when a control rests for a moment. Figures of the whole artwork
  // take both cores of the server: they wait until it rests for longer, so that no picture waits for them.
  const hasColor = control.recipe !== undefined && knowsItsColors(artwork, control.recipe);
  const settled = useSettled(hasColor ? control.recipe : undefined, 150);
  const rested = useSettled(hasColor ? control.recipe : undefined, 500);
  const [copies, setCopies] = usePreference("copies", 1);
  const differences = useDifferences(artwork.id, condition.slug, rested, viewState.marks.tolerance);
  const ink = useInkFigures(artwork.id, condition.slug, rested, copies);
  const rows = useTrace(
    artwork.id,
    condition.slug,
    settled,
    pins.map((pin) => [pin.x, pin.y]),
  );
  const atPointer = useTrace(artwork.id, condition.slug, settled, useDeferredValue(pointed ? [pointed] : []));
  const pointer = pointed && atPointer.data?.[0];

  const addRegion = (kind: string, part: Partial<Region>) => {
    const now = control.recipe;
    if (!now) return;
    const name = freshName(now.adjust.regions, kind);
    const made: Region = {
      name,
      corners: [],
      softness: 0.02,
      color: null,
      inverted: false,
      adjustment: NOTHING,
      black: "as set",
      ...part,
    };
    control.keep({ ...now, adjust: { ...now.adjust, regions: [...now.adjust.regions, made] } });
    viewState.showRegion(name, false);
  };
  const addHue = (lab: [number, number, number]) => {
    const now = control.recipe;
    if (!now) return;
    const center = (Math.round((Math.atan2(lab[2], lab[1]) * 180) / Math.PI) + 360) % 360;
    const { base, regions } = now.adjust;
    const within = regions.find((each) => each.name === viewState.region);
    const more = (given: Adjustment) => ({ ...given, hues: [...given.hues, hueAt(center)] });
    const adjust = within
      ? {
          ...now.adjust,
          regions: regions.map((each) =>
            each === within ? { ...each, adjustment: more(each.adjustment) } : each,
          ),
        }
      : { ...now.adjust, base: more(base) };
    control.keep({ ...now, adjust });
  };
  const [pick, setPick] = useState<{ at: [number, number]; tool: "color" | "hue" }>();
  const picked = useTrace(artwork.id, condition.slug, settled, pick ? [pick.at] : []);
  const pickedNow = picked.data?.[0];
  const add = useRef({ addRegion, addHue });
  add.current = { addRegion, addHue };
  useEffect(() => {
    if (!pick || !pickedNow || pickedNow.x !== pick.at[0] || pickedNow.y !== pick.at[1]) return;
    setPick(undefined);
    const lab = pickedNow.source_lab as [number, number, number];
    if (pick.tool === "hue") add.current.addHue(lab);
    else add.current.addRegion("Color", { color: { lab, radius: 20, softness: 0.5 } });
  }, [pick, pickedNow]);
  const drawing = useDrawing(
    artwork,
    (corners) => addRegion("Region", { corners }),
    (at, tool) => setPick({ at, tool }),
  );

  // A variant taken on the sheet of another condition is put in force when its recipe is here.
  const taking = `take ${artwork.id}/${condition.slug}`;
  const { recipe, kept, keep } = control;
  useEffect(() => {
    const waiting = kept && sessionStorage.getItem(taking);
    if (!waiting) return;
    sessionStorage.removeItem(taking);
    keep(JSON.parse(waiting) as Recipe);
  }, [kept, taking, keep]);

  // By keys to a station: its settings are what comes next, and not thirty Tabs away. Who points at the picture goes on there.
  const reached = useRef(false);
  useEffect(() => {
    if (reached.current && viewState.station) goTo(".panel h2");
    reached.current = false;
  }, [viewState.station]);
  function reach(station: StationName) {
    const pointing = document.activeElement?.matches(".stage canvas");
    reached.current = !pointing && station !== viewState.station;
    if (!pointing && !reached.current) goTo(".panel h2");
    viewState.go(station);
  }

  useBenchKeys({
    viewState,
    onFlip: setFlipped,
    onZoom: (direction) => setZoomKey((now) => ({ count: now.count + 1, direction })),
    onPin: () => pointed && drop.mutate({ x: pointed[0], y: pointed[1], name: "" }),
    onUndo: control.undo,
    onRedo: control.redo,
    onGamut: () =>
      navigate(`/gamut?with=${condition.slug}&in=${condition.slug}&artwork=${artwork.id}&arrows=1`),
    onKeys: () => setKeysShown((now) => !now),
    onStation: reach,
  });

  if (!recipe)
    return control.error ? (
      <NotHere title="Bench">{control.error.message}</NotHere>
    ) : (
      <p className="room soft">Opening the recipe</p>
    );
  const panel = { artwork, condition, conditions, recipe, control, viewState };
  const shared = {
    artwork,
    condition,
    recipe,
    viewState,
    differences: current(differences),
    ink: current(ink),
  };
  return (
    <main className="bench" data-title={artwork.name}>
      <div className="skips">
        <h1 className="visually-hidden" tabIndex={-1}>
          {artwork.name}, {condition.name}
        </h1>
        {[
          ["To the picture", ".stage canvas"],
          ["To the settings", ".panel h2"],
          ["To the black button", ".panel .foot .MuiButton-contained"],
          ["To the table below", ".below .tab"],
        ].map(([name, to]) => (
          <button key={name} type="button" className="skip" onClick={() => goTo(to ?? "")}>
            {name}
          </button>
        ))}
      </div>
      <StationBar {...shared} onReach={reach} />
      <div className="bench-middle">
        <ErrorBoundary what="The picture">
          {viewState.station === "source" && isAsked(artwork, recipe) ? (
            <QuestionStage artwork={artwork} condition={condition} conditions={conditions} recipe={recipe} />
          ) : viewState.layout === "sheet" ? (
            <VariantSheet {...panel} crop={crop} copies={copies} onTake={(next) => control.keep(next)} />
          ) : (
            <Stage
              {...shared}
              pins={pins}
              flipped={flipped}
              drawing={drawing}
              hasColor={hasColor}
              onPoint={setPointed}
              onPin={([x, y]) => drop.mutate({ x, y, name: "" })}
              onCrop={setCrop}
              zoomKey={zoomKey}
            />
          )}
        </ErrorBoundary>
        <ErrorBoundary what="This table">
          <Below viewState={viewState}>
            {viewState.tab === "pins" && (
              <PinTable
                artwork={artwork}
                condition={condition}
                pins={pins}
                rows={rows.data ?? []}
                pointer={pointer}
                onTake={(id) => take.mutate(id)}
              />
            )}
            {viewState.tab === "hits" && (
              <HitTable artwork={artwork} condition={condition} recipe={settled} viewState={viewState} />
            )}
            {viewState.tab === "palette" && (
              <PaletteTable
                artwork={artwork}
                condition={condition}
                recipe={settled}
                viewState={viewState}
                pins={rows.data ?? []}
              />
            )}
          </Below>
        </ErrorBoundary>
      </div>
      <aside className="panel" aria-label={`Station ${viewState.station}`}>
        {condition.last_strip && !condition.last_strip.within && (
          <p className="notice" role="status">
            {condition.name} is out of tolerance since its last strip: {condition.last_strip.broken[0]}.{" "}
            <Link to={`/conditions/${condition.slug}/drift`}>See its drift</Link>
          </p>
        )}
        <NotSaved control={control} />
        <ErrorBoundary key={viewState.station} what="This panel">
          {viewState.station === "source" && <SourcePanel {...panel} />}
          {viewState.station === "adjust" && <AdjustPanel {...panel} drawing={drawing} pointer={pointer} />}
          {viewState.station === "aim" && <AimPanel {...panel} differences={differences} />}
          {viewState.station === "ink" && (
            <InkPanel {...panel} ink={ink} copies={copies} onCopies={setCopies} />
          )}
          {viewState.station === "plate" && <PlatePanel {...panel} figures={current(ink)} />}
          {viewState.station === "deliver" && <DeliverPanel {...panel} />}
        </ErrorBoundary>
      </aside>
      {keysShown && <Keys onClose={() => setKeysShown(false)} />}
    </main>
  );
}
