import "./BeforeAfter.css";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { type Artwork, type Condition, fetchPicture } from "../../api/client";
import { useKeptRecipe } from "../../api/conditionQueries";
import { PLAIN_VIEW } from "../../shared/plainView";

const WIDTH = 520;

interface Props {
  condition: Condition;
  artworks: Artwork[];
  shown: number;
  onChoose: (artworkId: number) => void;
}

/** An artwork as it is, and as this condition prints it, on the gray of the Bench. */
export function BeforeAfter({ condition, artworks, shown, onChoose }: Props) {
  const artwork = artworks.find((each) => each.id === shown);
  const kept = useKeptRecipe(shown, condition.slug);
  if (!artwork) return null;
  const zoom = Math.min(WIDTH / artwork.width, 1);
  const window = {
    left: 0,
    top: 0,
    width: Math.max(Math.round(artwork.width * zoom), 1),
    height: Math.max(Math.round(artwork.height * zoom), 1),
    zoom,
  };
  return (
    <section>
      <div className="setting wide beside">
        <span>Proof of</span>
        <Select
          size="small"
          value={shown}
          inputProps={{ "aria-label": "Artwork to proof" }}
          onChange={(event) => onChoose(Number(event.target.value))}
        >
          {artworks.map((each) => (
            <MenuItem key={each.id} value={each.id}>
              {each.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      <div className="before-after">
        {(
          [
            ["as it is", "artwork"],
            [`as ${condition.name} prints it, on its substrate`, "print"],
          ] as const
        ).map(([caption, show]) => (
          <figure key={show}>
            <Picture
              name={`${artwork.name} ${caption}`}
              size={window}
              load={
                kept.data &&
                (() =>
                  fetchPicture(artwork.id, condition.slug, {
                    recipe: kept.data.recipe,
                    view: { ...PLAIN_VIEW, show, substrate: show === "print" },
                    window,
                  }))
              }
              cacheKey={[
                "before-after",
                artwork.id,
                artwork.version,
                condition.slug,
                show,
                kept.data?.version,
              ]}
            />
            <figcaption>{caption}</figcaption>
          </figure>
        ))}
      </div>
      {kept.error && <p className="notice">{kept.error.message}</p>}
    </section>
  );
}

function Picture(props: {
  name: string;
  size: { width: number; height: number };
  load: (() => Promise<ImageBitmap>) | undefined;
  cacheKey: unknown[];
}) {
  const { name, size, load, cacheKey } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [failed, setFailed] = useState<string>();
  const picture = useQuery({
    queryKey: cacheKey,
    enabled: load !== undefined,
    retry: false,
    staleTime: Infinity,
    queryFn: () => load?.() as Promise<ImageBitmap>,
  });
  useEffect(() => {
    setFailed(picture.error?.message);
    if (picture.data) canvas.current?.getContext("2d")?.drawImage(picture.data, 0, 0);
  }, [picture.data, picture.error]);
  return (
    <>
      <canvas ref={canvas} width={size.width} height={size.height} role="img" aria-label={name} />
      {failed && <p className="notice">{failed}</p>}
    </>
  );
}
