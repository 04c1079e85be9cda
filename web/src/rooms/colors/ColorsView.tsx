import "./ColorsView.css";
import { lazy, Suspense, useMemo, useState } from "react";
import { type ColorList, type TravelAsked, useColorPoints } from "../../api/colorQueries";
import { useGamuts } from "../../api/conditionQueries";
import { useArtworks } from "../../api/queries";
import { fixed, whole } from "../../shared/figures";
import { Choice } from "../../shared/ui/Choice";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import { SlicePlot } from "../gamut/SlicePlot";
import { SampledPlaces } from "./SampledPlaces";

const GamutScene = lazy(() =>
  import("../gamut/GamutScene").then((module) => ({ default: module.GamutScene })),
);

interface Props {
  asked: TravelAsked;
  list: ColorList | undefined;
  chosen: number[];
  /** Gamut that is drawn around the colors: a condition or an RGB space. */
  hull: string | undefined;
}

type Way = "space" | "flat" | "artwork";

function hasWebGl(): boolean {
  try {
    return document.createElement("canvas").getContext("webgl2") !== null;
  } catch {
    return false;
  }
}

/** The chosen colors, or all that are listed, with arrows between the two columns: in space, at one L*, on the artwork. */
export function ColorsView({ asked, list, chosen, hull }: Props) {
  const webgl = useMemo(hasWebGl, []);
  const [way, setWay] = useState<Way>(webgl ? "space" : "flat");
  const [level, setLevel] = useState(60);
  const points = useColorPoints(asked, chosen);
  const gamuts = useGamuts(hull ? [hull] : []);
  const artwork = useArtworks().data?.find((each) => each.id === list?.artwork_id);
  const cloud = points.data;
  const ways: [Way, string][] = [
    ...(webgl ? [["space", "In space"] as [Way, string]] : []),
    ["flat", "At one L*"],
    ...(artwork ? [["artwork", "On the artwork"] as [Way, string]] : []),
  ];
  return (
    <section
      className="colors-view"
      aria-label="The colors in view"
      data-ready={points.isSuccess && !points.isPlaceholderData}
    >
      <div className="caption">
        <span role="status">
          {chosen.length ? `${whole(chosen.length)} chosen` : `${whole(cloud?.lab.length ?? 0)} shown`}
          {cloud && cloud.arrows.length > 0 && `, arrows ${asked.first + 1} → ${asked.second + 1}`}
        </span>
        <span>{gamuts.data?.[0]?.name}</span>
      </div>
      <div className="scene">
        {way === "space" && (
          <Suspense fallback={<p>Opening the view</p>}>
            <GamutScene
              hulls={(gamuts.data ?? []).map((gamut) => ({ gamut, look: "wire" as const }))}
              cloud={cloud}
              arrows
              slice={100}
              pointSize={
                (cloud?.lab.length ?? 0) < 200 ? 0.07 : (cloud?.lab.length ?? 0) < 3000 ? 0.035 : 0.017
              }
            />
          </Suspense>
        )}
        {way === "flat" && <SlicePlot gamuts={gamuts.data ?? []} cloud={cloud} level={level} />}
        {way === "artwork" && artwork && (
          <div className="on-artwork">
            <img
              alt={artwork.name}
              src={`/api/artworks/${artwork.id}/thumbnail?version=${artwork.version}`}
            />
            <SampledPlaces
              places={cloud?.places ?? []}
              width={artwork.width}
              height={artwork.height}
              large={chosen.length > 0}
            />
          </div>
        )}
      </div>
      <div className="view-tools">
        <Choice bare label="How the colors are shown" value={way} options={ways} onChange={setWay} />
        {way === "flat" && (
          <SliderSetting
            label="At L*"
            value={level}
            min={2}
            max={98}
            text={fixed(level, 0)}
            onMove={setLevel}
            onRest={() => undefined}
          />
        )}
      </div>
    </section>
  );
}
