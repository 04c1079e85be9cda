import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import type { Artwork, Condition, Recipe, View } from "../../../api/client";
import { useVersioning } from "../../../api/houseQueries";
import { useDifferences } from "../../../api/queries";
import { fixed, percent } from "../../../shared/figures";
import { useLook } from "../useLook";
import { usePicture } from "../usePicture";
import { viewOf } from "../view";

const WIDTH = 138;

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe;
}

/** The house rules ask: both outcomes as pictures with their figures, and a button under each. */
export function Question({ artwork, condition, recipe }: Props) {
  const { add } = useVersioning(artwork.id);
  const space = artwork.asks_space;
  const named = space.length === 64 ? "the house's space" : space;
  const outcome = { artwork, condition, recipe };
  return (
    <section className="question">
      <h3>
        {artwork.profile_name
          ? `It came with ${artwork.profile_name}; the house works in ${named}`
          : "It came without a profile: what do its numbers mean?"}
      </h3>
      <div className="outcomes">
        {artwork.profile_name ? (
          <Outcome {...outcome} choice="embedded" title="As it came" />
        ) : (
          <Outcome
            {...outcome}
            choice={space === "sRGB" ? "P3" : "sRGB"}
            title={`As ${space === "sRGB" ? "P3" : "sRGB"}`}
          />
        )}
        <Outcome {...outcome} choice={space} title={`As ${named}`} />
      </div>
      <div className="answers">
        {artwork.asks.includes("assume") && (
          <Button onClick={() => add.mutate({ action: "assign", profile: space })}>Read it as {named}</Button>
        )}
        {!artwork.profile_name && space !== "sRGB" && (
          <Button onClick={() => add.mutate({ action: "assign", profile: "sRGB" })}>Read it as sRGB</Button>
        )}
        {artwork.asks.includes("convert") && (
          <Button onClick={() => add.mutate({ action: "convert", profile: space })}>
            Keep its colors, in {named}
          </Button>
        )}
        <Button onClick={() => add.mutate({ action: "keep" })}>
          {artwork.profile_name ? "Leave it as it came" : "Decide later"}
        </Button>
      </div>
      {add.isPending && <p className="soft">Writing the new version</p>}
      {add.error && <p className="notice">{add.error.message}</p>}
    </section>
  );
}

function Outcome({ artwork, condition, recipe, choice, title }: Props & { choice: string; title: string }) {
  const look = useLook();
  const canvas = useRef<HTMLCanvasElement>(null);
  const zoom = WIDTH / artwork.width;
  const height = Math.max(1, Math.round(artwork.height * zoom));
  const read: Recipe = { ...recipe, source: { profile: choice } };
  const view: View = { ...viewOf(look), show: "artwork", mark: "", plates: [] };
  const window = { left: 0, top: 0, width: WIDTH, height, zoom };
  const { picture, error } = usePicture({
    artworkId: artwork.id,
    slug: condition.slug,
    version: artwork.version,
    body: { recipe: read, view, window },
  });
  const figures = useDifferences(artwork.id, condition.slug, read, look.marks.tolerance).data;
  useEffect(() => {
    if (picture) canvas.current?.getContext("2d")?.drawImage(picture.bitmap, 0, 0);
  }, [picture]);
  return (
    <figure>
      <canvas
        className="outcome-picture"
        ref={canvas}
        width={WIDTH}
        height={height}
        aria-label={`${artwork.name}, ${title}`}
      />
      <figcaption>
        <b>{title}</b>
        <br />
        {error ??
          (figures &&
            `${percent(figures.out_of_gamut_share * 100, 1)} out of gamut, ΔE00 ${fixed(figures.mean)} mean`)}
      </figcaption>
    </figure>
  );
}
