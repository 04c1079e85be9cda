import "./GamutRoom.css";
import { lazy, Suspense, useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { useCloud, useGamuts, useKeptRecipe } from "../../api/conditionQueries";
import { useArtworks, useConditions } from "../../api/queries";
import { fixed, percent, whole } from "../../shared/figures";
import { Choice } from "../../shared/ui/Choice";
import { SPACES } from "../../shared/ui/ProfileChoice";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import { SlicePlot } from "./SlicePlot";

const GamutScene = lazy(() => import("./GamutScene").then((module) => ({ default: module.GamutScene })));

/** Whether this browser draws in three dimensions at all. */
function hasWebGl(): boolean {
  try {
    return document.createElement("canvas").getContext("webgl2") !== null;
  } catch {
    return false;
  }
}

/** Gamuts of conditions and RGB spaces with the colors of an artwork, turned, cut, and in figures. */
export function GamutRoom() {
  const [params, setParams] = useSearchParams();
  const conditions = useConditions().data ?? [];
  const artworks = useArtworks().data ?? [];
  const chosen = (params.get("with") ?? conditions[0]?.slug ?? "").split(",").filter(Boolean);
  const solid = (params.get("solid") ?? "").split(",").filter(Boolean);
  const artworkId = Number(params.get("artwork") ?? 0);
  const slug = conditions.some((each) => each.slug === params.get("in"))
    ? (params.get("in") as string)
    : (chosen.find((key) => conditions.some((each) => each.slug === key)) ?? "");
  const webgl = useMemo(hasWebGl, []);
  const flat = params.get("view") === "flat" || !webgl;
  // A cut begins in the middle; in space, everything is seen. At white there is nothing to be cut.
  const [first, most] = flat ? [50, 99] : [100, 100];
  const level = Math.min(Number(params.get("level") ?? first), most);
  const set = (changes: Record<string, string>) => {
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changes)) value ? next.set(name, value) : next.delete(name);
    setParams(next, { replace: true });
  };
  const gamuts = useGamuts(chosen);
  const recipe = useKeptRecipe(artworkId, slug);
  const cloud = useCloud(artworkId, slug, recipe.data?.recipe);
  const [search, setSearch] = useState("");
  const listed = [
    ...conditions.map((each) => [each.slug, each.name, "Conditions", each.process] as const),
    ...SPACES.map((each) => [each, each, "Working spaces", "RGB"] as const),
  ].filter(
    ([key, name, , about]) =>
      // What is shown stays in the list, so that it can be taken out.
      chosen.includes(key) || `${name} ${about}`.toLowerCase().includes(search.trim().toLowerCase()),
  );
  const hulls = gamuts.data?.map((gamut) => ({
    gamut,
    look: solid.includes(gamut.key) ? ("solid" as const) : ("wire" as const),
  }));
  const toggled = (list: string[], key: string) =>
    (list.includes(key) ? list.filter((each) => each !== key) : [...list, key]).join(",");
  const shown = gamuts.data ?? [];
  const artwork = artworks.find((each) => each.id === artworkId);
  return (
    <main className="gamut">
      <div className="gamut-stage" data-ready={gamuts.isSuccess && (!artworkId || cloud.isSuccess)}>
        {gamuts.error && <p className="notice">{gamuts.error.message}</p>}
        {flat ? (
          gamuts.isSuccess && (
            <SlicePlot gamuts={shown} cloud={artworkId ? cloud.data : undefined} level={level} />
          )
        ) : (
          <Suspense fallback={<p>Opening the view</p>}>
            <GamutScene
              hulls={hulls ?? []}
              cloud={artworkId ? cloud.data : undefined}
              arrows={params.get("arrows") === "1"}
              slice={level}
            />
          </Suspense>
        )}
      </div>
      <aside className="panel" aria-label="Gamut">
        <header>
          <div>
            <h1 tabIndex={-1}>Gamut</h1>
            <p className="soft">What lies within reach, media-relative L*a*b*, D50.</p>
          </div>
        </header>
        <Choice
          bare
          label="How the gamuts are shown"
          value={flat ? "flat" : "space"}
          options={[
            ["space", "In space"],
            ["flat", "Cut at one L*"],
          ]}
          onChange={(view) => set({ view: view === "flat" ? "flat" : "" })}
        />
        {!flat && (
          <p className="soft">
            L* up, a* to the right, b* away. Drag it or press arrow keys to turn it; the wheel, + and − bring
            it nearer.
          </p>
        )}
        {!webgl && <p className="soft">This browser draws no 3D; the cut shows the same gamuts.</p>}
        <SliderSetting
          label={flat ? "At L*" : "Cut above L*"}
          value={level}
          min={2}
          max={most}
          text={fixed(level, 0)}
          onMove={(value) => set({ level: value === first ? "" : String(value) })}
          onRest={() => undefined}
        />
        <section>
          <h2 className="minor">Gamuts</h2>
          <input
            className="field"
            type="search"
            aria-label="Search the gamuts"
            placeholder="Condition, process or space"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          {listed.length === 0 && <p className="soft">Nothing is called that.</p>}
          {listed.map(([key, name, group], index) => (
            <div key={key} className="gamut-row">
              {group !== listed[index - 1]?.[2] && <h3>{group}</h3>}
              <button
                type="button"
                className="choice"
                aria-pressed={chosen.includes(key)}
                onClick={() => set({ with: toggled(chosen, key) })}
              >
                {name}
              </button>
              {chosen.includes(key) && !flat && (
                <button
                  type="button"
                  className="quiet-button"
                  onClick={() => set({ solid: toggled(solid, key) })}
                >
                  {solid.includes(key) ? "as wire" : "solid"}
                </button>
              )}
            </div>
          ))}
        </section>
        {shown.length > 0 && (
          <section>
            <table className="figures">
              <thead>
                <tr>
                  <th>Gamut</th>
                  <th>Volume, 1000 ΔE³</th>
                  <th>Coverage of the first</th>
                </tr>
              </thead>
              <tbody>
                {shown.map((gamut) => (
                  <tr key={gamut.key}>
                    <td>{gamut.name}</td>
                    <td>{fixed(gamut.volume / 1000, 0)}</td>
                    <td>{percent(gamut.in_first * 100, 1)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        )}
        <section>
          <h2 className="minor">Artwork</h2>
          <select
            className="field"
            aria-label="Artwork in the gamut view"
            value={artworkId || ""}
            onChange={(event) => set({ artwork: event.target.value })}
          >
            <option value="">none</option>
            {artworks.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </select>
          {artworkId > 0 && cloud.data && (
            <>
              <p className="soft">
                {whole(cloud.data.lab.length)} distinct colors as wanted on{" "}
                {conditions.find((each) => each.slug === slug)?.name};{" "}
                {percent(cloud.data.outside_share * 100, 1)} of the pixels are more than 3 ΔE00 out.
              </p>
              {!flat && (
                <button
                  type="button"
                  className="quiet-button"
                  aria-pressed={params.get("arrows") === "1"}
                  onClick={() => set({ arrows: params.get("arrows") === "1" ? "" : "1" })}
                >
                  {params.get("arrows") === "1" ? "Hide the arrows" : "Arrows from wanted to printed"}
                </button>
              )}
              {artwork && <Link to={`/bench/${artwork.id}/${slug}`}>Back to the Bench</Link>}
            </>
          )}
          {cloud.error && artworkId > 0 && <p className="notice">{cloud.error.message}</p>}
        </section>
      </aside>
    </main>
  );
}
