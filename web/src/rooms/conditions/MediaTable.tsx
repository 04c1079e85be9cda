import Button from "@mui/material/Button";
import { useState } from "react";
import { type Medium, useMedia, useRemoveMedium, useSaveMedium } from "../../api/conditionQueries";
import { fixed } from "../../shared/figures";
import { isNumber, number } from "../../shared/typedNumber";

/** A medium as it is typed; numbers stay as text until they are saved. */
interface TypedMedium {
  id?: number;
  version?: number;
  name: string;
  width_mm: string;
  length_m: string;
  price: string;
  currency: string;
}

const EMPTY: TypedMedium = { name: "", width_mm: "1000", length_m: "30", price: "100", currency: "EUR" };

const typedOf = ({ id, version, name, width_mm, length_m, price, currency }: Medium): TypedMedium => ({
  id,
  version,
  name,
  width_mm: String(width_mm),
  length_m: String(length_m),
  price: String(price),
  currency,
});

/** What is printed on, with what a square metre of it costs. */
export function MediaTable() {
  const media = useMedia();
  const save = useSaveMedium();
  const remove = useRemoveMedium();
  const [edited, setEdited] = useState<TypedMedium>();
  const numbers = edited && {
    width_mm: number(edited.width_mm),
    length_m: number(edited.length_m),
    price: number(edited.price),
  };
  const area = numbers ? (numbers.width_mm / 1000) * numbers.length_m : 0;
  const whole = edited && numbers && edited.name.trim() !== "" && area > 0 && numbers.price >= 0;
  const keep = () =>
    whole && save.mutate({ ...edited, ...numbers }, { onSuccess: () => setEdited(undefined) });
  const field = (part: "name" | "width_mm" | "length_m" | "price" | "currency", label: string) => (
    <input
      className={
        part === "name" ? "plain-input" : `plain-input ${part === "currency" ? "currency" : "number"}`
      }
      inputMode={part === "name" || part === "currency" ? undefined : "decimal"}
      maxLength={part === "currency" ? 8 : undefined}
      aria-label={label}
      aria-invalid={
        part !== "name" && part !== "currency" && !isNumber(edited?.[part] ?? "") ? true : undefined
      }
      value={edited?.[part] ?? ""}
      onChange={(event) => edited && setEdited({ ...edited, [part]: event.target.value })}
      onKeyDown={(event) => {
        if (event.key === "Enter") keep();
        if (event.key === "Escape") setEdited(undefined);
      }}
    />
  );
  const editing = (key: number | undefined) =>
    edited && (
      <tr key={key ?? "new"}>
        <td>{field("name", "Name of the medium")}</td>
        <td>{field("width_mm", "Width in mm")}</td>
        <td>{field("length_m", "Length in m")}</td>
        <td className="unbroken">
          {field("price", "Price")} {field("currency", "Currency")}
        </td>
        <td className="number">
          {whole ? `${fixed((numbers?.price ?? 0) / area, 2)} ${edited.currency}` : "–"}
        </td>
        <td className="unbroken">
          <Button disabled={!whole || save.isPending} onClick={keep}>
            Save
          </Button>{" "}
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
                    onClick={() => setEdited(typedOf(medium))}
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
