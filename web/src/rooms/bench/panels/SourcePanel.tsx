import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { bytes, fixed, megapixels } from "../../../app/figures";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";

const SPACES = ["sRGB", "opRGB", "ROMM", "P3"];

/** What the artwork is, and which profile gives its numbers their meaning. */
export function SourcePanel({ artwork, recipe, control }: PanelProps) {
  const { profile } = recipe.source;
  const assumed = profile !== "embedded";
  return (
    <>
      <PanelHead title="Source" purpose="What the numbers of the artwork mean." control={control} />
      <section>
        <h3>Source profile</h3>
        <Select
          size="small"
          value={profile}
          inputProps={{ "aria-label": "Source profile" }}
          onChange={(event) => control.keep({ ...recipe, source: { profile: event.target.value } })}
        >
          <MenuItem value="embedded" disabled={!artwork.profile_name}>
            {artwork.profile_name ? `${artwork.profile_name}, as embedded` : "nothing is embedded"}
          </MenuItem>
          {SPACES.map((space) => (
            <MenuItem key={space} value={space}>
              {space}, assumed
            </MenuItem>
          ))}
        </Select>
        <p className="soft">
          {assumed
            ? "The numbers stay as they are and are read by another profile: the picture shows what that means."
            : "The numbers are read by the profile that came with them."}
        </p>
      </section>
      <section>
        <h3>Artwork</h3>
        <dl className="facts">
          <dt>Name</dt>
          <dd>{artwork.name}</dd>
          <dt>Size</dt>
          <dd>
            {artwork.width} × {artwork.height}, {megapixels(artwork)}
          </dd>
          <dt>Depth</dt>
          <dd>{artwork.depth} bit</dd>
          <dt>File</dt>
          <dd>
            {artwork.format}, {bytes(artwork.bytes)}
          </dd>
          <dt>Resolution</dt>
          <dd>{artwork.resolution_ppi ? `${fixed(artwork.resolution_ppi, 0)} ppi` : "not said"}</dd>
          <dt>Taken in</dt>
          <dd>{new Date(artwork.taken_in_at).toLocaleString("sv-SE")}</dd>
        </dl>
      </section>
      <section>
        <h3>Log</h3>
        {artwork.log.length === 0 && !assumed && (
          <p className="soft">Nothing was assumed and nothing was changed.</p>
        )}
        {assumed && (
          <p>
            {profile} is assumed{artwork.profile_name && ` in place of ${artwork.profile_name}`}.{" "}
            {artwork.profile_name && (
              <button
                type="button"
                className="quiet-button"
                onClick={() => control.keep({ ...recipe, source: { profile: "embedded" } })}
              >
                Read it as embedded again
              </button>
            )}
          </p>
        )}
        {artwork.log.map((note) => (
          <p key={note}>{note}</p>
        ))}
        <p>
          <a href={`/api/artworks/${artwork.id}/original`}>Download the original</a>
        </p>
      </section>
    </>
  );
}
