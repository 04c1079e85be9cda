import "./SourcePanel.css";
import Button from "@mui/material/Button";
import { useState } from "react";
import { useProfiles, useVersioning, useVersions } from "../../../api/houseQueries";
import { bytes, fixed, megapixels, moment } from "../../../shared/figures";
import { ProfileChoice, SPACES } from "../../../shared/ui/ProfileChoice";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";

/** What the artwork is, and which profile gives its numbers their meaning. */
export function SourcePanel({ artwork, recipe, control }: PanelProps) {
  const { profile } = recipe.source;
  const trying = profile !== "embedded";
  const profiles = useProfiles();
  const named = (choice: string) =>
    SPACES.includes(choice)
      ? choice
      : (profiles.data?.find((each) => each.sha256 === choice)?.name ?? "a profile");
  const { add, choose } = useVersioning(artwork.id);
  const versions = useVersions(artwork);
  const back = () => control.keep({ ...recipe, source: { profile: "embedded" } });
  const busy = add.isPending || choose.isPending;
  return (
    <>
      <PanelHead title="Source" purpose="What the numbers of the artwork mean." control={control} />
      <section>
        <h3>Source profile</h3>
        <ProfileChoice
          label="Source profile"
          value={profile}
          space={artwork.space}
          first={[
            ["embedded", artwork.profile_name ? `${artwork.profile_name}, its own` : "none of its own"],
          ]}
          onChange={(choice) => control.keep({ ...recipe, source: { profile: choice } })}
        />
        {trying ? (
          <>
            <p>
              Tried on: the numbers are read by {named(profile)}. Picture, figures and print show what that
              means; nothing is decided yet.
            </p>
            <div className="answers">
              <Button
                disabled={busy}
                title="The numbers stay, the colors change"
                onClick={() => add.mutate({ action: "assign", profile }, { onSuccess: back })}
              >
                Assign {named(profile)}
              </Button>
              <Button
                disabled={busy || !artwork.profile_name}
                title="The colors stay, the numbers change"
                onClick={() => add.mutate({ action: "convert", profile }, { onSuccess: back })}
              >
                Convert to {named(profile)}
              </Button>
              <Button disabled={busy} onClick={back}>
                Back to its own
              </Button>
            </div>
            <p className="soft">
              Assigning keeps the numbers and changes the colors. Converting keeps the colors and changes the
              numbers. Either makes a new version.
            </p>
          </>
        ) : (
          <p className="soft">
            {artwork.profile_name
              ? "Choose another one to try it on; nothing is changed by trying."
              : "Without a profile the numbers have no color: choose one to try it on."}{" "}
            {artwork.profile_name && (
              <button
                type="button"
                className="quiet-button"
                disabled={busy}
                onClick={() => add.mutate({ action: "remove" })}
              >
                Remove the profile
              </button>
            )}
          </p>
        )}
        {busy && <p className="soft">Making the version</p>}
        {(add.error ?? choose.error) && (
          <p className="notice" role="alert">
            {(add.error ?? choose.error)?.message}
          </p>
        )}
      </section>
      {(artwork.pages > 1 || artwork.has_alpha) && (
        <Flatten
          pages={artwork.pages}
          page={artwork.page}
          alpha={artwork.has_alpha}
          busy={busy}
          onFlatten={(page, ground) => add.mutate({ action: "flatten", page, ground })}
        />
      )}
      <section>
        <h3>Versions</h3>
        <ol className="versions">
          {versions.data?.map((version) => (
            <li key={version.number} aria-current={version.number === artwork.version}>
              <span>{version.note}</span>
              {version.number === artwork.version ? (
                <span className="strong">in force</span>
              ) : (
                <button
                  type="button"
                  className="quiet-button"
                  disabled={busy}
                  onClick={() => choose.mutate(version.number)}
                >
                  go to
                </button>
              )}
            </li>
          ))}
        </ol>
        <p>
          <a href={`/api/artworks/${artwork.id}/original`}>Download the original</a>
          <span className="soft">, as it came, byte for byte.</span>
        </p>
      </section>
      <section>
        <h3>Artwork</h3>
        <dl className="facts">
          <dt>Size</dt>
          <dd>
            {artwork.width} × {artwork.height}, {megapixels(artwork)}
          </dd>
          <dt>Stored as</dt>
          <dd>
            {artwork.stored_as}, {artwork.depth} bit {artwork.format}, {bytes(artwork.bytes)}
          </dd>
          <dt>Resolution</dt>
          <dd>
            {artwork.resolution_ppi
              ? `${fixed(artwork.resolution_ppi, 0)} ppi, prints ${fixed((artwork.width / artwork.resolution_ppi) * 25.4, 0)} × ${fixed((artwork.height / artwork.resolution_ppi) * 25.4, 0)} mm`
              : "not said, 72 ppi is taken"}
          </dd>
          <dt>Added</dt>
          <dd>{moment(artwork.taken_in_at)}</dd>
        </dl>
      </section>
      <section>
        <h3>Log</h3>
        {artwork.log.length === 0 && <p className="soft">Nothing was assumed and nothing was changed.</p>}
        {artwork.log.map((note) => (
          <p key={note}>{note}</p>
        ))}
      </section>
    </>
  );
}

interface FlattenProps {
  pages: number;
  page: number;
  alpha: boolean;
  busy: boolean;
  onFlatten: (page: number, ground: [number, number, number]) => void;
}

/** Which page, and what lies under transparent parts. */
function Flatten({ pages, page, alpha, busy, onFlatten }: FlattenProps) {
  const [wanted, setWanted] = useState(page + 1);
  const [ground, setGround] = useState("#ffffff");
  const rgb = [1, 3, 5].map((at) => Number.parseInt(ground.slice(at, at + 2), 16) / 255);
  return (
    <section>
      <h3>Flattening</h3>
      {pages > 1 && (
        <label className="setting wide">
          <span>Page of {pages}</span>
          <input
            type="number"
            className="field"
            min={1}
            max={pages}
            value={wanted}
            onChange={(event) => setWanted(Number(event.target.value))}
          />
        </label>
      )}
      {alpha && (
        <label className="setting wide">
          <span>Background</span>
          <input
            type="text"
            className="field"
            pattern="#[0-9a-fA-F]{6}"
            value={ground}
            onChange={(event) => setGround(event.target.value)}
          />
        </label>
      )}
      <Button
        disabled={busy || rgb.some(Number.isNaN) || wanted < 1 || wanted > pages}
        onClick={() => onFlatten(wanted - 1, rgb as [number, number, number])}
      >
        Flatten again
      </Button>
    </section>
  );
}
