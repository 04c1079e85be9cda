import "./bench.css";
import "./ArtworkShelf.css";
import Button from "@mui/material/Button";
import { type DragEvent, useDeferredValue, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Artwork } from "../../api/client";
import { useConditions } from "../../api/queries";
import { type Narrowing, useRemoveMany, useShelf, useShelfChoices } from "../../api/shelfQueries";
import { megapixels, moment, whole } from "../../shared/figures";
import { usePreference } from "../../shared/preferences";
import { UploadList } from "../../shared/uploads/Uploads";
import { addFiles } from "../../shared/uploads/uploads";
import { SeparateMany } from "./SeparateMany";
import { ShelfTools } from "./ShelfTools";

const AT_FIRST: Narrowing = { sort: "name", descending: false };

/** All artwork: searched, narrowed down, several chosen at once, and the way to import more. */
export function ArtworkShelf() {
  const [wanted, setWanted] = useState<Narrowing>(AT_FIRST);
  const [asList, setAsList] = usePreference("shelf as list", false);
  const [chosen, setChosen] = useState<ReadonlyMap<number, Artwork>>(new Map());
  const [separating, setSeparating] = useState(false);
  const shelf = useShelf(useDeferredValue(wanted));
  const printing = useConditions();
  const conditions = printing.data ?? [];
  const remove = useRemoveMany();
  // Filters and pictures come together: neither pushes the other about.
  const arrived = useRef(false);
  const choices = useShelfChoices();
  if (!choices.isPending && !shelf.isPending && !printing.isPending) arrived.current = true;
  const ready = arrived.current;
  const end = useRef<HTMLDivElement>(null);
  const shown = shelf.data?.pages.flatMap((page) => page.items) ?? [];
  const total = shelf.data?.pages[0]?.total;

  const { hasNextPage, isFetchingNextPage, fetchNextPage } = shelf;
  useEffect(() => {
    const seen = new IntersectionObserver(
      ([entry]) => entry?.isIntersecting && hasNextPage && !isFetchingNextPage && fetchNextPage(),
      { rootMargin: "600px" },
    );
    if (end.current) seen.observe(end.current);
    return () => seen.disconnect();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);

  function choose(artwork: Artwork, on: boolean) {
    const next = new Map(chosen);
    if (on) next.set(artwork.id, artwork);
    else next.delete(artwork.id);
    setChosen(next);
  }
  const drop = () => {
    setChosen(new Map());
    setSeparating(false);
  };
  function removeAll(artworks: Artwork[]) {
    remove.mutate(
      artworks.map((each) => each.id),
      {
        onSuccess: ({ removed }) => {
          const next = new Map(chosen);
          for (const id of removed) next.delete(id);
          setChosen(next);
        },
      },
    );
  }

  return (
    <main className="room">
      <header>
        <div>
          <h1 tabIndex={-1}>Artwork</h1>
          <p className="soft">Choose one to put it on the Bench, or mark several to act on them.</p>
        </div>
      </header>
      <ImportPlace />
      <UploadList />
      {ready && (total !== 0 || wanted !== AT_FIRST) && (
        <ShelfTools
          wanted={wanted}
          total={total}
          conditions={conditions}
          asList={asList}
          onChange={setWanted}
          onAsList={setAsList}
        />
      )}
      {shelf.error && <p className="notice">{shelf.error.message}</p>}
      {remove.error && <p className="notice">{remove.error.message}</p>}
      {remove.data?.kept.map((said) => (
        <p key={said} className="notice" role="alert">
          {said}
        </p>
      ))}
      {chosen.size > 0 && !separating && (
        <div className="chosen-bar" role="toolbar" aria-label="The chosen artworks">
          <span className="strong" role="status">
            {whole(chosen.size)} chosen
          </span>
          <Button variant="contained" onClick={() => setSeparating(true)}>
            Separate
          </Button>
          <Button onClick={() => removeAll([...chosen.values()])}>Remove</Button>
          <Button
            onClick={() => setChosen(new Map([...chosen, ...shown.map((each) => [each.id, each] as const)]))}
          >
            Choose all listed
          </Button>
          <Button onClick={drop}>Choose none</Button>
        </div>
      )}
      {separating && chosen.size > 0 && (
        <SeparateMany
          artworks={[...chosen.values()]}
          conditions={conditions}
          onCancel={() => setSeparating(false)}
        />
      )}
      {total === 0 &&
        (wanted === AT_FIRST ? (
          <p>
            Nothing is here yet. Import artwork to begin: then give it a profile at Source, choose a printing
            condition at Aim, set inks, and write the separation at Deliver.
          </p>
        ) : (
          <p>No artwork fits this search.</p>
        ))}
      {!ready ? null : asList && shown.length > 0 ? (
        <ShelfList artworks={shown} chosen={chosen} onChoose={choose} onRemove={removeAll} />
      ) : (
        <div className="shelf">
          {shown.map((artwork) => (
            <div key={artwork.id} className="on-shelf" data-chosen={chosen.has(artwork.id) || undefined}>
              <Link className="sheet-card" to={placeOf(artwork)}>
                <div className="frame">
                  <img src={thumbnailOf(artwork)} alt="" loading="lazy" />
                </div>
                <div className="about">
                  <span className="strong">{artwork.name}</span>
                  <span className="soft">{factsOf(artwork)}</span>
                  <span className={artwork.asks.length ? "strong" : "soft"}>{profileOf(artwork)}</span>
                </div>
              </Link>
              <div className="acts">
                <label>
                  <input
                    type="checkbox"
                    checked={chosen.has(artwork.id)}
                    onChange={(event) => choose(artwork, event.target.checked)}
                    aria-label={`Choose ${artwork.name}`}
                  />{" "}
                  Choose
                </label>
                <button
                  type="button"
                  className="quiet-button soft"
                  aria-label={`Remove ${artwork.name}`}
                  onClick={() => removeAll([artwork])}
                >
                  Remove
                </button>
              </div>
            </div>
          ))}
        </div>
      )}
      <div ref={end} />
      {isFetchingNextPage && <p className="soft">Loading more</p>}
    </main>
  );
}

const placeOf = (artwork: Artwork) => `/bench/${artwork.id}${artwork.asks.length ? "?at=source" : ""}`;
const thumbnailOf = (artwork: Artwork) => `/api/artworks/${artwork.id}/thumbnail?version=${artwork.version}`;
const factsOf = (artwork: Artwork) =>
  `${artwork.width} × ${artwork.height} · ${megapixels(artwork)} · ${artwork.depth} bit ${artwork.format}`;
const profileOf = (artwork: Artwork) =>
  artwork.asks.length
    ? "the house rules ask: decide at Source"
    : artwork.profile_name || "no profile: choose one at Source";

interface ListProps {
  artworks: Artwork[];
  chosen: ReadonlyMap<number, Artwork>;
  onChoose: (artwork: Artwork, on: boolean) => void;
  onRemove: (artworks: Artwork[]) => void;
}

function ShelfList({ artworks, chosen, onChoose, onRemove }: ListProps) {
  return (
    <table className="table" aria-label="Artwork">
      <thead>
        <tr>
          <th>
            <span className="visually-hidden">Chosen</span>
          </th>
          <th>Name</th>
          <th>Space</th>
          <th className="number">Pixels</th>
          <th className="number">Bit</th>
          <th>Format</th>
          <th>Profile</th>
          <th>Added</th>
          <th>By</th>
          <th>
            <span className="visually-hidden">Chosen</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {artworks.map((artwork) => (
          <tr key={artwork.id}>
            <td>
              <input
                type="checkbox"
                checked={chosen.has(artwork.id)}
                onChange={(event) => onChoose(artwork, event.target.checked)}
                aria-label={`Choose ${artwork.name}`}
              />
            </td>
            <td className="strong">
              <Link to={placeOf(artwork)}>{artwork.name}</Link>
            </td>
            <td>{artwork.stored_as}</td>
            <td className="number">
              {artwork.width} × {artwork.height}
            </td>
            <td className="number">{artwork.depth}</td>
            <td>{artwork.format}</td>
            <td className={artwork.asks.length ? "strong" : ""}>{profileOf(artwork)}</td>
            <td>{moment(artwork.taken_in_at)}</td>
            <td>{artwork.added_by}</td>
            <td>
              <button
                type="button"
                className="quiet-button soft"
                aria-label={`Remove ${artwork.name}`}
                onClick={() => onRemove([artwork])}
              >
                Remove
              </button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function ImportPlace() {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);

  function dropped(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    addFiles([...event.dataTransfer.files]);
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the button inside does the same by key
    <div
      className={over ? "drop over" : "drop"}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={dropped}
    >
      <Button onClick={() => input.current?.click()}>Import artwork</Button>
      <span className="soft">
        or drop files here: TIFF, PNG, JPEG or OpenRaster; RGB, gray, CMYK or Lab. The original is kept as it
        is.
      </span>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        accept=".tif,.tiff,.png,.jpg,.jpeg,.ora"
        onChange={(event) => {
          // The list is emptied with the input: its files are taken out first.
          const given = [...(event.target.files ?? [])];
          event.target.value = "";
          addFiles(given);
        }}
      />
    </div>
  );
}
