import Button from "@mui/material/Button";
import { type DragEvent, useRef, useState } from "react";
import { Link } from "react-router";
import { useArtworks, useRemoveArtwork } from "../../api/queries";
import { megapixels } from "../../shared/figures";
import { UploadList } from "../../shared/uploads/Uploads";
import { addFiles } from "../../shared/uploads/uploads";

/** All artwork, and the way to take more in. */
export function ArtworkShelf() {
  const artworks = useArtworks();
  const remove = useRemoveArtwork();
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);

  function dropped(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    addFiles([...event.dataTransfer.files]);
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
        <Button onClick={() => input.current?.click()}>Import artwork</Button>
        <span className="soft">
          or drop files here: TIFF, PNG, JPEG or OpenRaster; RGB, gray, CMYK or Lab. The original is kept as it is.
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
      <UploadList />
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
