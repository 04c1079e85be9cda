import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";
import { Link } from "react-router";
import { upload } from "../../api/client";
import { useArtworks, useRemoveArtwork } from "../../api/queries";
import { megapixels } from "../../app/figures";

interface Arrival {
  name: string;
  share: number;
  error?: string;
}

/** All artwork, and the way to take more in. */
export function ArtworkShelf() {
  const artworks = useArtworks();
  const remove = useRemoveArtwork();
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [arrivals, setArrivals] = useState<Arrival[]>([]);
  const [over, setOver] = useState(false);

  async function takeIn(files: FileList) {
    for (const file of files) {
      const update = (change: Partial<Arrival>) =>
        setArrivals((now) => now.map((each) => (each.name === file.name ? { ...each, ...change } : each)));
      setArrivals((now) => [...now.filter((each) => each.name !== file.name), { name: file.name, share: 0 }]);
      try {
        await upload(file, (share) => update({ share }));
        setArrivals((now) => now.filter((each) => each.name !== file.name));
        await queries.invalidateQueries({ queryKey: ["artworks"] });
      } catch (cause) {
        update({ error: (cause as Error).message });
      }
    }
  }

  function dropped(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    void takeIn(event.dataTransfer.files);
  }

  return (
    <main className="room">
      <header>
        <div>
          <h1>Artwork</h1>
          <p className="soft">Choose one to put it on the Bench.</p>
        </div>
      </header>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the button inside does the same by key */}
      <div
        className={over ? "drop over" : "drop"}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={dropped}
      >
        <Button onClick={() => input.current?.click()}>Take in artwork</Button>
        <span className="soft">
          or drop files here: TIFF, PNG, JPEG or PSD; RGB, gray, CMYK or Lab. The original is kept as it is.
        </span>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept=".tif,.tiff,.png,.jpg,.jpeg,.psd,.psb"
          onChange={(event) => {
            if (event.target.files) void takeIn(event.target.files);
            event.target.value = "";
          }}
        />
      </div>
      {arrivals.map((arrival) =>
        arrival.error ? (
          <p className="notice" key={arrival.name} role="alert">
            {arrival.error}{" "}
            <button
              type="button"
              className="quiet-button"
              onClick={() => setArrivals((now) => now.filter((each) => each !== arrival))}
            >
              Dismiss
            </button>
          </p>
        ) : (
          <div key={arrival.name}>
            {arrival.name}: {arrival.share < 1 ? "uploading" : "being opened"}
            <LinearProgress
              variant={arrival.share < 1 ? "determinate" : "indeterminate"}
              value={arrival.share * 100}
              aria-label={`Upload of ${arrival.name}`}
            />
          </div>
        ),
      )}
      {artworks.error && <p className="notice">{artworks.error.message}</p>}
      {remove.error && <p className="notice">{remove.error.message}</p>}
      <div className="shelf">
        {artworks.data?.map((artwork) => (
          <div key={artwork.id}>
            <Link
              className="sheet-card"
              to={`/bench/${artwork.id}${artwork.asks.length ? "?at=source" : ""}`}
            >
              <div className="frame">
                <img src={`/api/artworks/${artwork.id}/thumbnail?${artwork.version}`} alt="" />
              </div>
              <div className="about">
                <span className="strong">{artwork.name}</span>
                <span className="soft">
                  {artwork.width} × {artwork.height} · {megapixels(artwork)} · {artwork.depth} bit{" "}
                  {artwork.format}
                </span>
                <span className={artwork.asks.length ? "strong" : "soft"}>
                  {artwork.asks.length
                    ? "the house rules ask: decide at Source"
                    : artwork.profile_name || "no profile: choose one at Source"}
                </span>
              </div>
            </Link>
            <button
              type="button"
              className="quiet-button soft"
              onClick={() => {
                if (
                  confirm(`Remove '${artwork.name}' and its recipes from Plinto? Files already written stay.`)
                )
                  remove.mutate(artwork);
              }}
            >
              Remove
            </button>
          </div>
        ))}
      </div>
    </main>
  );
}
