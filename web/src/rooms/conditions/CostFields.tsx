import Button from "@mui/material/Button";
import { useState } from "react";
import type { Condition } from "../../api/client";
import { useChangeCondition } from "../../api/conditionQueries";
import { drivenByRgb, inkName } from "../../shared/inks";
import { number } from "../../shared/typedNumber";

type Typed = Record<string, { laydown: string; price: string }>;

/** What a solid of each ink takes, and what a kilogram costs. */
export function CostFields({ condition }: { condition: Condition }) {
  const change = useChangeCondition(condition);
  const [typed, setTyped] = useState<Typed>();
  const [open, setOpen] = useState(false);
  if (drivenByRgb(condition.inks)) return null;
  const shown =
    typed ??
    Object.fromEntries(
      condition.inks.map((ink) => {
        const known = condition.ink_costs[ink];
        return [
          ink,
          {
            laydown: known ? String(known.laydown_g_m2) : "",
            price: known ? String(known.price_per_kg) : "",
          },
        ];
      }),
    );
  const filled = Object.entries(shown).filter(([, each]) => each.laydown.trim() || each.price.trim());
  const wrong = filled.some(
    ([, each]) => !each.laydown.trim() || !(number(each.laydown) >= 0) || !(number(each.price || "0") >= 0),
  );
  return (
    <>
      <button type="button" className="quiet-button" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Hide what inks cost" : "What inks take and cost"}
      </button>
      {open && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            const ink_costs = Object.fromEntries(
              filled.map(([ink, each]) => [
                ink,
                { laydown_g_m2: number(each.laydown), price_per_kg: number(each.price || "0") },
              ]),
            );
            change.mutate({ ink_costs }, { onSuccess: () => setTyped(undefined) });
          }}
        >
          <table className="table narrow" aria-label="What inks take and cost">
            <thead>
              <tr>
                <th>Ink</th>
                <th>Solid, g/m²</th>
                <th>Price per kg, {condition.medium?.currency ?? "EUR"}</th>
              </tr>
            </thead>
            <tbody>
              {condition.inks.map((ink) => (
                <tr key={ink}>
                  <td>{inkName(ink)}</td>
                  {(["laydown", "price"] as const).map((part) => (
                    <td key={part}>
                      <input
                        className="field"
                        inputMode="decimal"
                        aria-label={
                          part === "laydown" ? `Solid of ${inkName(ink)}, g/m²` : `Price of ${inkName(ink)}`
                        }
                        value={shown[ink]?.[part] ?? ""}
                        onChange={(event) =>
                          setTyped({
                            ...shown,
                            [ink]: { laydown: "", price: "", ...shown[ink], [part]: event.target.value },
                          })
                        }
                      />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <div className="answers">
            <Button type="submit" disabled={!typed || wrong || change.isPending}>
              Save
            </Button>
            {typed && <Button onClick={() => setTyped(undefined)}>Cancel</Button>}
          </div>
          {wrong && <p className="notice">Give numbers, and a laydown wherever a price stands.</p>}
          {change.error && (
            <p className="notice" role="alert">
              {change.error.message}
            </p>
          )}
        </form>
      )}
    </>
  );
}
