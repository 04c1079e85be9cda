import Button from "@mui/material/Button";
import { useState } from "react";
import { type Medium, useMedia, useRemoveMedium, useSaveMedium } from "../../api/conditionQueries";
import { fixed } from "../../shared/figures";

const EMPTY = { name: "", width_mm: 1000, length_m: 30, price: 100, currency: "EUR" };
type Wish = typeof EMPTY & { id?: number; version?: number };

const wishOf = ({ cost_per_m2: _, ...wish }: Medium): Wish => wish;

/** What is printed on, with what a square metre of it costs. */
export function MediaTable() {
  const media = useMedia();
  const save = useSaveMedium();
  const remove = useRemoveMedium();
  const [wish, setWish] = useState<Wish>();
  const number = (field: "width_mm" | "length_m" | "price", label: string) => (
    <input
      className="plain-input number"
      type="number"
      step="any"
      aria-label={label}
      value={wish?.[field] ?? 0}
      onChange={(event) => wish && setWish({ ...wish, [field]: Number(event.target.value) })}
    />
  );
  const editing = (key: number | undefined) =>
    wish && (
      <tr key={key ?? "new"}>
        <td>
          <input
            className="plain-input"
            aria-label="Name of the medium"
            value={wish.name}
            onChange={(event) => setWish({ ...wish, name: event.target.value })}
          />
        </td>
        <td>{number("width_mm", "Width in mm")}</td>
        <td>{number("length_m", "Length in m")}</td>
        <td>{number("price", "Price")}</td>
        <td className="number">
          {fixed(wish.price / Math.max((wish.width_mm / 1000) * wish.length_m, 1e-6), 2)} {wish.currency}
        </td>
        <td className="unbroken">
          <Button onClick={() => save.mutate(wish, { onSuccess: () => setWish(undefined) })}>Save</Button>{" "}
          <button type="button" className="quiet-button" onClick={() => setWish(undefined)}>
            Cancel
          </button>
        </td>
      </tr>
    );
  return (
    <section>
      <h2>
        Media{" "}
        <button type="button" className="quiet-button" onClick={() => setWish(EMPTY)}>
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
            wish?.id === medium.id ? (
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
                    onClick={() => setWish(wishOf(medium))}
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
          {wish && wish.id === undefined && editing(undefined)}
        </tbody>
      </table>
    </section>
  );
}
