import "./VariantSheet.css";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useQueries } from "@tanstack/react-query";
import {
  type KeyboardEvent as ReactKeyboardEvent,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import { useNavigate } from "react-router";
import {
  type Artwork,
  api,
  type Condition,
  type Differences,
  type InkFigures,
  type Intent,
  type Recipe,
  type RenderRequest,
  taken,
} from "../../api/client";
import { inkFigures, useBlackKinds } from "../../api/queries";
import { blackName } from "../../shared/blackNames";
import { counted, fixed, percent } from "../../shared/figures";
import { usePreference } from "../../shared/preferences";
import { type Crop, framed } from "./geometry";
import { renderRequest } from "./renderRequest";
import { LayoutTools } from "./StageTools";
import { takesLetters, useSingleKeys } from "./useBenchKeys";
import { usePicture } from "./usePicture";
import type { ViewState } from "./useViewState";

const INTENTS: Intent[] = ["perceptual", "relative", "saturation", "absolute"];
type Figure = (row: { figures: Differences | undefined; ink: InkFigures | undefined }) => number | undefined;
const meanInk = (ink: InkFigures) => ink.coverage.mean_percent.reduce((sum, each) => sum + each, 0);
/** Money is told where the condition says what at least one ink costs. */
const costOf = (ink: InkFigures | undefined) =>
  ink?.cost && Object.keys(ink.cost.grams).length > 0 ? ink.cost : undefined;
const ORDERS: Record<string, Figure | undefined> = {
  "as chosen": undefined,
  "least out of gamut": (row) => row.figures?.out_of_gamut_share,
  "least mean ΔE00": (row) => row.figures?.mean,
  "least ΔE00, 95 % below": (row) => row.figures?.p95,
  "least largest ΔE00": (row) => row.figures?.worst,
  "least ink": (row) => row.ink && meanInk(row.ink),
  "least cost": (row) => costOf(row.ink)?.total_money,
};
const MOST = 12;

interface Choice {
  slugs: string[];
  intents: Intent[];
  blacks: string[];
}

interface Variant {
  key: string;
  name: string;
  slug: string;
  recipe: Recipe;
}

interface Props {
  artwork: Artwork;
  condition: Condition;
  conditions: Condition[];
  recipe: Recipe;
  viewState: ViewState;
  crop: Crop | undefined;
  copies: number;
  onTake: (recipe: Recipe) => void;
}

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** Several variants as a contact sheet of the same picture, their figures under each; a figure key takes one. */
export function VariantSheet({
  artwork,
  condition,
  conditions,
  recipe,
  viewState,
  crop,
  copies,
  onTake,
}: Props) {
  const kinds = useBlackKinds();
  const navigate = useNavigate();
  const [choice, setChoice] = usePreference<Choice>("sheet", { slugs: [], intents: INTENTS, blacks: [] });
  const [order, setOrder] = useState("as chosen");
  const slugs = choice.slugs.filter((slug) => conditions.some((each) => each.slug === slug));
  const shown = slugs.length ? slugs : [condition.slug];

  // What is kept for this artwork in the other conditions; here it is what is on the Bench.
  const kept = useQueries({
    queries: shown.map((slug) => ({
      queryKey: ["recipe", artwork.id, slug],
      queryFn: async () =>
        await taken(
          api.GET("/api/bench/{artwork_id}/{slug}/recipe", {
            params: { path: { artwork_id: artwork.id, slug } },
          }),
        ),
    })),
  });
  const variants: Variant[] = shown.flatMap((slug, index) => {
    const base = slug === condition.slug ? recipe : kept[index]?.data?.recipe;
    if (!base) return [];
    return (choice.intents.length ? choice.intents : [recipe.aim.intent]).flatMap((intent) =>
      (choice.blacks.length ? choice.blacks : [""]).map((black) => {
        const policy = kinds.data?.[black];
        const there = conditions.find((each) => each.slug === slug)?.name ?? slug;
        return {
          key: `${slug} ${intent} ${black}`,
          name: [shown.length > 1 && there, capital(intent), black && `Black ${blackName(black)}`]
            .filter(Boolean)
            .join(" · "),
          slug,
          recipe: {
            ...base,
            source: recipe.source,
            adjust: recipe.adjust,
            aim: { ...recipe.aim, intent },
            ink: policy ? { ...base.ink, method: "rebuilt" as const, black: policy } : base.ink,
          },
        };
      }),
    );
  });
  const some = variants.slice(0, MOST);
  const { tolerance } = viewState.marks;
  const figures = useQueries({
    queries: some.map((variant) => ({
      queryKey: ["differences", artwork.id, variant.slug, variant.recipe, tolerance],
      queryFn: async () =>
        await taken(
          api.POST("/api/bench/{artwork_id}/{slug}/differences", {
            params: { path: { artwork_id: artwork.id, slug: variant.slug } },
            body: { recipe: variant.recipe, tolerance },
          }),
        ),
    })),
  });
  const inks = useQueries({
    queries: some.map((variant) => inkFigures(artwork.id, variant.slug, variant.recipe, copies)),
  });
  const rank = ORDERS[order];
  const rows = some.map((variant, index) => ({
    variant,
    figures: figures[index]?.data,
    ink: inks[index]?.data,
  }));
  if (rank) rows.sort((a, b) => (rank(a) ?? 1e9) - (rank(b) ?? 1e9));

  function take(variant: Variant | undefined) {
    if (!variant) return;
    viewState.lay("whole");
    if (variant.slug === condition.slug) onTake(variant.recipe);
    else {
      const rest = new URLSearchParams(location.search);
      rest.delete("as");
      // The other condition's recipe takes the intent and black over when it is opened.
      sessionStorage.setItem(`take ${artwork.id}/${variant.slug}`, JSON.stringify(variant.recipe));
      navigate(`/bench/${artwork.id}/${variant.slug}?${rest}`);
    }
  }
  const latest = useRef(rows);
  latest.current = rows;
  const takeNow = useRef(take);
  takeNow.current = take;
  const [single] = useSingleKeys();
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.repeat || event.defaultPrevented) return;
      if (!single || takesLetters(event.target)) return;
      const row = latest.current[Number(event.key) - 1];
      if (row) takeNow.current(row.variant);
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [single]);

  const toggled = <T,>(list: T[], each: T) =>
    list.includes(each) ? list.filter((other) => other !== each) : [...list, each];
  return (
    <div className="sheet">
      <div
        className="sheet-grid"
        role="toolbar"
        aria-label="Variants"
        style={{ gridTemplateColumns: `repeat(${columns(rows.length)}, minmax(0, 1fr))` }}
        onKeyDown={(event) => moveFocus(event, columns(rows.length))}
      >
        {rows.map(({ variant, figures: found, ink }, index) => (
          <VariantCard
            key={variant.key}
            artwork={artwork}
            variant={variant}
            view={renderRequest(viewState)}
            crop={crop}
            figures={found}
            ink={ink}
            taken={variant.slug === condition.slug && same(variant.recipe, recipe)}
            number={index + 1}
            onTake={() => take(variant)}
          />
        ))}
      </div>
      <div className="tools sheet-tools" role="toolbar" aria-label="What is on the sheet">
        <LayoutTools viewState={viewState} />
        <div>
          {conditions.map((each) => (
            <button
              key={each.slug}
              type="button"
              aria-pressed={shown.includes(each.slug)}
              onClick={() => setChoice({ ...choice, slugs: toggled(shown, each.slug) })}
            >
              {each.name}
            </button>
          ))}
        </div>
        <div>
          {INTENTS.map((intent) => (
            <button
              key={intent}
              type="button"
              aria-pressed={choice.intents.includes(intent)}
              onClick={() =>
                setChoice({
                  ...choice,
                  intents: INTENTS.filter((i) => toggled(choice.intents, intent).includes(i)),
                })
              }
            >
              {capital(intent)}
            </button>
          ))}
        </div>
        <div>
          {Object.keys(kinds.data ?? {}).map((black) => (
            <button
              key={black}
              type="button"
              aria-pressed={choice.blacks.includes(black)}
              onClick={() => setChoice({ ...choice, blacks: toggled(choice.blacks, black) })}
            >
              Black {blackName(black)}
            </button>
          ))}
        </div>
        <Select
          size="small"
          value={order}
          inputProps={{ "aria-label": "Order of the sheet" }}
          onChange={(event) => setOrder(event.target.value)}
        >
          {Object.keys(ORDERS).map((each) => (
            <MenuItem key={each} value={each}>
              {each}
            </MenuItem>
          ))}
        </Select>
        {variants.length > MOST && (
          <span className="tag">
            {MOST} of {variants.length} variants
          </span>
        )}
      </div>
    </div>
  );
}

/** Arrow keys go from one variant to its neighbors. */
function moveFocus(event: ReactKeyboardEvent<HTMLElement>, across: number) {
  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: across, ArrowUp: -across }[event.key];
  const cards = [...event.currentTarget.querySelectorAll<HTMLElement>(".variant")];
  const at = cards.indexOf(document.activeElement as HTMLElement);
  const next = by && at >= 0 ? cards[at + by] : undefined;
  if (!next) return;
  event.preventDefault();
  event.stopPropagation();
  next.focus();
}

function inkInWords(ink: InkFigures): string {
  const cost = costOf(ink);
  const money =
    cost && `${fixed(cost.total_money, 2)} ${cost.currency} for ${counted(cost.copies, "copy", "copies")}`;
  return [`Ink ${percent(meanInk(ink))} mean, ${percent(ink.coverage.largest_percent)} largest`, money]
    .filter(Boolean)
    .join(" · ");
}

const columns = (count: number) => (count < 2 ? 1 : count < 5 ? 2 : count < 10 ? 3 : 4);

const same = (one: Recipe, other: Recipe) =>
  JSON.stringify([one.aim, one.ink]) === JSON.stringify([other.aim, other.ink]);

interface CardProps {
  artwork: Artwork;
  variant: Variant;
  view: RenderRequest;
  crop: Crop | undefined;
  figures: Differences | undefined;
  ink: InkFigures | undefined;
  taken: boolean;
  number: number;
  onTake: () => void;
}

function VariantCard({
  artwork,
  variant,
  view,
  crop,
  figures,
  ink,
  taken: inForce,
  number,
  onTake,
}: CardProps) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    if (frame.current) observer.observe(frame.current);
    return () => observer.disconnect();
  }, []);
  const window = framed(artwork, size, crop);
  const shown: RenderRequest = { ...view, show: view.show === "artwork" ? "print" : view.show, region: "" };
  const { picture, busy, error } = usePicture(
    window
      ? {
          artworkId: artwork.id,
          slug: variant.slug,
          version: artwork.version,
          body: { recipe: variant.recipe, view: shown, window },
        }
      : undefined,
  );
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!picture || !pen) return;
    pen.imageSmoothingEnabled = picture.window.zoom < 1;
    pen.drawImage(picture.bitmap, 0, 0, picture.window.width, picture.window.height);
  }, [picture]);
  return (
    <button
      type="button"
      className="variant"
      aria-pressed={inForce}
      onClick={onTake}
      data-ready={!busy && !!picture}
    >
      <span className="frame" ref={frame}>
        <canvas ref={canvas} width={window?.width ?? 1} height={window?.height ?? 1} />
      </span>
      <span className="about">
        <span className="head-line">
          <b>{variant.name}</b>
          {number < 10 && <kbd>{number}</kbd>}
        </span>
        <span>
          {error ??
            (figures
              ? `${percent(figures.out_of_gamut_share * 100, 1)} out of gamut · ΔE00 ${fixed(figures.mean)} mean · 95 % below ${fixed(figures.p95)} · largest ${fixed(figures.worst)}`
              : "…")}
        </span>
        <span>{ink ? inkInWords(ink) : "…"}</span>
      </span>
    </button>
  );
}
