import Button from "@mui/material/Button";
import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { api, type CurvePoints, type Recipe, taken } from "../../../api/client";
import { useToneTable } from "../../../api/queries";
import { FileInput } from "../../../shared/ui/FileInput";
import { CurveEditor } from "./CurveEditor";
import { FilmSettings } from "./FilmSettings";
import { WedgeGrid } from "./WedgeGrid";

type Negative = Recipe["deliver"]["negative"];

const STRAIGHT: CurvePoints = [
  [0, 0],
  [1, 1],
];

interface Props {
  negative: Negative;
  name: string;
  onMove: (negative: Negative) => void;
  onRest: (negative: Negative) => void;
}

/** Hand a file that was made for them to whoever asked. */
function hand(file: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** The tone table of a contact negative: drawn, from a measured wedge, or a .cube; and the film it lies on. */
export function NegativePanel({ negative, name, onMove, onRest }: Props) {
  const read = useToneTable();
  const input = useRef<HTMLInputElement>(null);
  const points = negative.table.curve.points;
  const withPoints = (next: CurvePoints): Negative => ({ ...negative, table: { curve: { points: next } } });
  const take = (kind: "wedge" | "cube", text: string) =>
    read.mutate({ kind, text }, { onSuccess: (table) => onRest({ ...negative, table }) });

  async function writeCube() {
    const text = await taken(
      api.POST("/api/bench/tone-tables/cube", {
        body: { table: negative.table, title: name },
        parseAs: "text",
      }),
    );
    hand(new Blob([text as unknown as string]), `${name.replace(/\.[^.]+$/, "")} tone table.cube`);
  }

  const wedge = useMutation({
    mutationFn: () =>
      taken(
        api.POST("/api/bench/wedges", { body: { film: negative.film }, parseAs: "blob" }),
      ) as Promise<unknown>,
    onSuccess: (file) =>
      hand(file as Blob, `Step wedge.${negative.film.container === "pdf" ? "pdf" : "tif"}`),
  });

  return (
    <>
      <section>
        <div className="head-line">
          <h3>Tone table</h3>
          <button type="button" className="quiet-button" onClick={() => onRest(withPoints(STRAIGHT))}>
            Reset
          </button>
        </div>
        <CurveEditor
          label="tone table"
          points={points}
          axes={["L* wanted", "tone sent"]}
          onMove={(next) => onMove(withPoints(next))}
          onRest={(next) => onRest(withPoints(next))}
        />
        <WedgeGrid
          onMade={(text) => take("wedge", text)}
          onPrint={() => wedge.mutate()}
          printing={wedge.isPending}
        />
        <div className="answers">
          <Button onClick={() => input.current?.click()}>Read a .cube</Button>
          <Button onClick={() => void writeCube()}>Write a .cube</Button>
        </div>
        <FileInput
          at={input}
          label="Tone table as .cube"
          accept=".cube"
          onFile={(file) => void file.text().then((text) => take("cube", text))}
        />
        {(read.error ?? wedge.error) && (
          <p className="notice" role="alert">
            {(read.error ?? wedge.error)?.message}
          </p>
        )}
      </section>
      <FilmSettings
        film={negative.film}
        inks={["negative"]}
        onMove={(film) => onMove({ ...negative, film })}
        onRest={(film) => onRest({ ...negative, film })}
      />
    </>
  );
}
