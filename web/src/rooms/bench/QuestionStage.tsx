import "./QuestionStage.css";
import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import type { Artwork, Condition, Recipe, RenderRequest } from "../../api/client";
import { useVersioning } from "../../api/houseQueries";
import { useDifferences } from "../../api/queries";
import { fixed, percent } from "../../shared/figures";
import { renderRequest } from "./renderRequest";
import { usePicture } from "./usePicture";
import { usePlacing } from "./usePlacing";
import { useViewState } from "./useViewState";

interface Props {
  artwork: Artwork;
  condition: Condition;
  conditions: Condition[];
  recipe: Recipe;
}

/** One answer: the profile that the numbers are read by in its picture, and what is done if it is taken. */
interface Answer {
  reads: string;
  title: string;
  verb: string;
  body: { action: "assign" | "convert" | "keep"; profile?: string };
}

/** Whether the stage asks what the artwork's numbers mean; a profile that is tried on is shown instead. */
export const isAsked = (artwork: Artwork, recipe: Recipe) =>
  recipe.source.profile === "embedded" && (artwork.asks.length > 0 || artwork.profile_name === "");

function answersTo({ artwork, condition, conditions }: Props): Answer[] {
  const space = artwork.asks_space;
  const named = space.length === 64 ? "the house's space" : space;
  if (artwork.profile_name)
    return [
      { reads: "embedded", title: "As it came", verb: "Leave it as it came", body: { action: "keep" } },
      {
        reads: space,
        title: `In ${named}`,
        verb: `Keep its colors, in ${named}`,
        body: { action: "convert", profile: space },
      },
    ];
  const reading = (reads: string, name: string): Answer => ({
    reads,
    title: `As ${name}`,
    verb: `Read it as ${name}`,
    body: { action: "assign", profile: reads },
  });
  if (artwork.space === "CMYK") {
    // Made for some press: the one it is looked at for, and the first other one of its inks.
    const presses = [condition, ...conditions.filter((each) => each.slug !== condition.slug)].filter(
      (each) => each.inks.join("") === "CMYK" && each.profile_sha256 !== space,
    );
    const house = space ? [reading(space, named)] : [];
    return [...house, ...presses.map((each) => reading(each.profile_sha256, each.name))].slice(0, 2);
  }
  return [
    reading(space === "sRGB" ? "P3" : "sRGB", space === "sRGB" ? "P3" : "sRGB"),
    reading(space || "P3", named || "P3"),
  ];
}

/** What the numbers mean, asked where there is room: each answer as a picture with its figures, its button under it. */
export function QuestionStage(props: Props) {
  const { artwork, condition } = props;
  const { add } = useVersioning(artwork.id);
  const space = artwork.asks_space;
  const house = space.length === 64 ? "a space of its own" : space;
  return (
    <section className="question-stage" data-ready="true" aria-label="What the numbers mean">
      <h2>
        {artwork.profile_name
          ? `It came with ${artwork.profile_name}; the house works in ${house}`
          : "It came without a profile: what do its numbers mean?"}
      </h2>
      <div className="outcomes">
        {answersTo(props).map((answer) => (
          <figure key={answer.title}>
            <Outcome {...props} answer={answer} />
            <Button disabled={add.isPending} onClick={() => add.mutate(answer.body)}>
              {answer.verb}
            </Button>
          </figure>
        ))}
      </div>
      <div className="answers">
        {artwork.asks.length > 0 && !artwork.profile_name && (
          <Button variant="text" disabled={add.isPending} onClick={() => add.mutate({ action: "keep" })}>
            Decide later
          </Button>
        )}
        <span className="soft" role="status">
          {add.isPending
            ? "Writing the new version"
            : `Printed on ${condition.name}. Another profile is tried on in the panel; nothing is changed by trying.`}
        </span>
        {add.error && (
          <span className="notice" role="alert">
            {add.error.message}
          </span>
        )}
      </div>
    </section>
  );
}

function Outcome({ artwork, condition, recipe, answer }: Props & { answer: Answer }) {
  const viewState = useViewState();
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { whole } = usePlacing(frame, artwork, 1);
  // The margins of a stage are for its tools; here there are none.
  const zoom = Math.min(whole.width / artwork.width, whole.height / artwork.height, 1);
  const size = {
    width: Math.max(1, Math.floor(artwork.width * zoom)),
    height: Math.max(1, Math.floor(artwork.height * zoom)),
  };
  const read: Recipe = { ...recipe, source: { profile: answer.reads } };
  const view: RenderRequest = { ...renderRequest(viewState), show: "artwork", mark: "", plates: [] };
  const { picture, error } = usePicture(
    whole.width
      ? {
          artworkId: artwork.id,
          slug: condition.slug,
          version: artwork.version,
          body: { recipe: read, view, window: { left: 0, top: 0, ...size, zoom } },
        }
      : undefined,
  );
  const figures = useDifferences(artwork.id, condition.slug, read, viewState.marks.tolerance).data;
  useEffect(() => {
    if (picture) canvas.current?.getContext("2d")?.drawImage(picture.bitmap, 0, 0);
  }, [picture]);
  return (
    <>
      <div className="frame" ref={frame}>
        <canvas ref={canvas} {...size} role="img" aria-label={`${artwork.name}, ${answer.title}`} />
      </div>
      <figcaption>
        <b>{answer.title}</b>{" "}
        {error ??
          (figures &&
            `${percent(figures.out_of_gamut_share * 100, 1)} out of gamut, ΔE00 ${fixed(figures.mean)} mean`)}
      </figcaption>
    </>
  );
}
