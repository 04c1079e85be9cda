import { useNavigate } from "react-router";
import type { Artwork, Condition, Pin, Readout } from "../../api/client";
import { useListActions } from "../../api/colorQueries";
import { fixed, lab, percent } from "../../shared/figures";
import { drivenByRgb, inkName } from "../../shared/inks";

interface Props {
  artwork: Artwork;
  condition: Condition;
  pins: Pin[];
  rows: Readout[];
  pointer: Readout | undefined;
  onTake: (id: number) => void;
}

/** Each pinned color, and the one under the pointer, at every station. */
export function PinTable({ artwork, condition, pins, rows, pointer, onTake }: Props) {
  const rgb = drivenByRgb(condition.inks);
  const navigate = useNavigate();
  const { pins: list } = useListActions();
  return (
    <div className="pins">
      <table>
        <thead>
          <tr>
            <th>Pin</th>
            <th>
              {artwork.space}, {artwork.depth} bit
            </th>
            <th>Source Lab</th>
            <th>Aim</th>
            <th>
              <span className="inks">
                {condition.inks.map((ink) => (
                  <span key={ink}>
                    {inkName(ink)}
                    {!rgb && " %"}
                  </span>
                ))}
              </span>
            </th>
            <th>{!rgb && "Sum"}</th>
            <th>Printed Lab</th>
            <th title="Between wanted and printed, media-relative D50">ΔE00</th>
            <th>
              <span className="visually-hidden">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {pointer ? (
            <Row label="pointer" readout={pointer} />
          ) : (
            <tr>
              <td className="soft" colSpan={9}>
                Point at the picture to read a color; P drops a pin there.
              </td>
            </tr>
          )}
          {pins.map((pin, index) => {
            const readout = rows.find((row) => row.x === pin.x && row.y === pin.y);
            return (
              readout && (
                <Row
                  key={pin.id}
                  label={pin.name || `pin ${index + 1}`}
                  readout={readout}
                  onTake={() => onTake(pin.id)}
                />
              )
            );
          })}
        </tbody>
      </table>
      {pins.length > 0 && (
        <p className="answers">
          <button
            type="button"
            className="quiet-button"
            disabled={list.isPending}
            onClick={() =>
              list.mutate(artwork.id, { onSuccess: (made) => navigate(`/colors?list=${made.id}`) })
            }
          >
            Pins as a color list
          </button>
          {list.error && (
            <span className="notice" role="alert">
              {list.error.message}
            </span>
          )}
        </p>
      )}
    </div>
  );
}

export function Triple({ values }: { values: number[] }) {
  return (
    <span className="triple">
      {values.map((value, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: L, a and b have no other name
        <span key={index}>{fixed(value)}</span>
      ))}
    </span>
  );
}

function Row({ label, readout, onTake }: { label: string; readout: Readout; onTake?: () => void }) {
  return (
    <tr>
      <td>
        <span className="swatch" style={{ background: readout.swatch }} />
        <span className="swatch last" style={{ background: readout.print_swatch }} />
        {label}
      </td>
      <td>
        <span
          className="codes"
          title={
            readout.adjusted.join() === readout.source.join()
              ? undefined
              : `adjusted ${readout.adjusted.join(" ")}`
          }
        >
          {readout.source.map((code, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: red, green and blue
            <span key={index}>{code}</span>
          ))}
        </span>
      </td>
      <td>
        <Triple values={readout.source_lab} />
      </td>
      <td>
        <Triple values={readout.aim_lab} />
      </td>
      <td>
        <span className="inks">
          {Object.entries(readout.driving ?? readout.inks_percent).map(([ink, value]) => (
            <span key={ink}>{fixed(value, 0)}</span>
          ))}
        </span>
      </td>
      <td>{!readout.driving && percent(readout.sum_percent)}</td>
      <td>
        <Triple values={readout.print_lab} />
      </td>
      <td
        className={readout.delta_e > 3 ? "strong" : ""}
        title={`wanted L*a*b* ${lab(readout.want_lab)}, printed ${lab(readout.print_lab)}${readout.out_of_reach && `; ${readout.out_of_reach}`}`}
      >
        {fixed(readout.delta_e)}
      </td>
      <td>
        {onTake && (
          <button
            type="button"
            className="remove"
            title={`Remove ${label}`}
            aria-label={`Remove ${label}`}
            onClick={onTake}
          >
            ×
          </button>
        )}
      </td>
    </tr>
  );
}
