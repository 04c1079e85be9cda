import Button from "@mui/material/Button";
import { useState } from "react";
import { type Medium, useMedia, useRemoveMedium, useSaveMedium } from "../../api/conditionQueries";
import { fixed } from "../../shared/figures";

const EMPTY = { name: "", width_mm: 1000, length_m: 30, price: 100, currency: "EUR" };
type MediumData = typeof EMPTY & { id?: number; version?: number };

const dataOf = ({ cost_per_m2: _, ...edited }: Medium): MediumData => edited;

/** What is printed on, with what a square metre of it costs. */
export function MediaTable() {
  const media = useMedia();
  const save = useSaveMedium();
  const remove = useRemoveMedium();
  const [edited, setEdited] = useState<MediumData>();
  const number = (field: "width_mm" | "length_m" | "price", label: string) => (
    <input
      className="plain-input number"
      type="number"
      step="any"
      aria-label={label}
      value={edited?.[field] ?? 0}
      onChange={(event) => edited && setEdited({ ...edited, [field]: Number(event.target.value) })}
    />
  );
  const editing = (key: number | undefined) =>
    edited && (
      <tr key={key ?? "new"}>
        <td>
          <input
            className="plain-input"
            aria-label="Name of the medium"
            value={edited.name}
            onChange={(event) => setEdited({ ...edited, name: event.target.value })}
          />
        </td>
        <td>{number("width_mm", "Width in mm")}</td>
        <td>{number("length_m", "Length in m")}</td>
        <td>{number("price", "Price")}</td>
        <td className="number">
          {fixed(edited.price / Math.max((edited.width_mm / 1000) * edited.length_m, 1e-6), 2)}{" "}
          {edited.currency}
        </td>
        <td className="unbroken">
          <Button onClick={() => save.mutate(edited, { onSuccess: () => setEdited(undefined) })}>Save</Button>{" "}
          <button type="button" className="quiet-button" onClick={() => setEdited(undefined)}>
            Cancel
          </button>
        </td>
      </tr>
    );
  return (
    <section>
      <h2>
        Media{" "}
        <button type="button" className="quiet-button" onClick={() => setEdited(EMPTY)}>
          Add a medium
        </button>
      </h2>
      {(save.error ?? remove.error) && <p className="notice">{(save.error ?? remove.error)?.message}</p>}
      <table className="table media">
        <thead>
          <tr>
            <th>Medium</th>
            <th className="number">Width, mm</th>
            <th className="number">Length, m</th>
            <th className="number">Price</th>
            <th className="number">Cost per m²</th>
            <th>
              <span className="visually-hidden">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {media.data?.map((medium: Medium) =>
            edited?.id === medium.id ? (
              editing(medium.id)
            ) : (
              <tr key={medium.id}>
                <td>{medium.name}</td>
                <td className="number">{fixed(medium.width_mm, 0)}</td>
                <td className="number">{fixed(medium.length_m, medium.length_m < 10 ? 1 : 0)}</td>
                <td className="number">
                  {fixed(medium.price, 2)} {medium.currency}
                </td>
                <td className="number">
                  {fixed(medium.cost_per_m2, 2)} {medium.currency}
                </td>
                <td className="unbroken">
                  <button
                    type="button"
                    className="quiet-button"
                    aria-label={`Change ${medium.name}`}
                    onClick={() => setEdited(dataOf(medium))}
                  >
                    Change
                  </button>{" "}
                  <button
                    type="button"
                    className="quiet-button"
                    aria-label={`Remove ${medium.name}`}
                    onClick={() => remove.mutate(medium.id)}
                  >
                    Remove
                  </button>
                </td>
              </tr>
            ),
          )}
          {edited && edited.id === undefined && editing(undefined)}
        </tbody>
      </table>
    </section>
  );
}
