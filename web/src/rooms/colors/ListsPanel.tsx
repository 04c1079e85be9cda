import "./ListsPanel.css";
import Button from "@mui/material/Button";
import { useRef, useState } from "react";
import { type ColorList, type KeptRoute, useListActions, useRouteActions } from "../../api/colorQueries";
import { useArtworks } from "../../api/queries";
import { counted } from "../../shared/figures";
import { MEASUREMENT_FILES } from "../../shared/measurementFiles";
import { FileInput } from "../../shared/ui/FileInput";

interface Props {
  lists: ColorList[];
  routes: KeptRoute[];
  listId: number | undefined;
  routeId: number | undefined;
  names: [string, string][];
  onList: (id: number | undefined) => void;
  onRoute: (route: KeptRoute | undefined) => void;
  /** A grid was made of this device. */
  onGrid: (profile: string) => void;
}

type Adding = "" | "typed" | "sampled" | "grid";

/** Lists and routes of the house, and the ways to add a list. */
export function ListsPanel({ lists, routes, listId, routeId, names, onList, onRoute, onGrid }: Props) {
  const { importFile, type, sample, grid, remove } = useListActions();
  const { remove: removeRoute } = useRouteActions();
  const input = useRef<HTMLInputElement>(null);
  const [adding, setAdding] = useState<Adding>("");
  const error =
    importFile.error ?? type.error ?? sample.error ?? grid.error ?? remove.error ?? removeRoute.error;
  const made = (list: ColorList) => {
    setAdding("");
    onList(list.id);
  };
  return (
    <aside className="color-lists" aria-label="Lists and routes">
      <header>
        <h1 tabIndex={-1}>Colors</h1>
        <p className="soft">Lists of colors, followed through a route.</p>
      </header>
      <h2>Lists</h2>
      <ul>
        {lists.map((list) => (
          <li key={list.id}>
            <button type="button" aria-pressed={list.id === listId} onClick={() => onList(list.id)}>
              <b>{list.name}</b>
              <span>
                {counted(list.count, "color")}, {list.channels.join(" ")}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <div className="add">
        <Button onClick={() => input.current?.click()}>Import a list</Button>
        <FileInput
          at={input}
          label="File of colors"
          accept={`${MEASUREMENT_FILES},.icc,.icm`}
          onFile={(file) => importFile.mutate(file, { onSuccess: made })}
        />
        {(
          [
            ["typed", "Type or paste"],
            ["sampled", "Sample artwork"],
            ["grid", "Grid of a device"],
          ] as const
        ).map(([kind, text]) => (
          <button
            key={kind}
            type="button"
            className="quiet-button"
            aria-expanded={adding === kind}
            onClick={() => setAdding(adding === kind ? "" : kind)}
          >
            {text}
          </button>
        ))}
        {adding === "typed" && <TypedForm onDone={(body) => type.mutate(body, { onSuccess: made })} />}
        {adding === "sampled" && <SampleForm onDone={(body) => sample.mutate(body, { onSuccess: made })} />}
        {adding === "grid" && (
          <GridForm
            names={names}
            onDone={(body) =>
              grid.mutate(body, {
                onSuccess: (list) => {
                  made(list);
                  onGrid(body.profile);
                },
              })
            }
          />
        )}
        {error && (
          <p className="notice" role="alert">
            {error.message}
          </p>
        )}
        {listId !== undefined && (
          <button
            type="button"
            className="quiet-button soft"
            onClick={() => {
              remove.mutate(listId);
              onList(undefined);
            }}
          >
            Remove this list
          </button>
        )}
      </div>
      <h2>Routes</h2>
      <ul>
        {routes.map((route) => (
          <li key={route.id}>
            <button type="button" aria-pressed={route.id === routeId} onClick={() => onRoute(route)}>
              <b>{route.name}</b>
              <span>{counted(route.steps.length, "step")}</span>
            </button>
          </li>
        ))}
      </ul>
      {routeId !== undefined && (
        <div className="add">
          <button
            type="button"
            className="quiet-button soft"
            onClick={() => {
              removeRoute.mutate(routeId);
              onRoute(undefined);
            }}
          >
            Remove this route
          </button>
        </div>
      )}
    </aside>
  );
}

function TypedForm({ onDone }: { onDone: (body: { name: string; text: string }) => void }) {
  const [name, setName] = useState("Typed colors");
  const [text, setText] = useState("");
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onDone({ name, text });
      }}
    >
      <input
        className="field"
        aria-label="Name of the list"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <textarea
        className="field"
        rows={6}
        aria-label="Colors, one a line"
        placeholder={"Leaf #2f8f3a\nRust 52.1 38 44"}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <span className="soft">
        A name, then #rrggbb or L* a* b*; or a table whose first line names its columns, like Name, C, M, Y,
        K.
      </span>
      <Button type="submit" disabled={!text.trim() || !name.trim()}>
        Add these colors
      </Button>
    </form>
  );
}

interface Sampling {
  artwork_id: number;
  rectangle: [number, number, number, number];
  across: number;
  down: number;
}

function SampleForm({ onDone }: { onDone: (body: Sampling) => void }) {
  const artworks = useArtworks().data ?? [];
  const [id, setId] = useState<number>();
  const artwork = artworks.find((each) => each.id === id) ?? artworks[0];
  const [across, setAcross] = useState(8);
  const [down, setDown] = useState(6);
  const [dragged, setDragged] = useState<{ from: [number, number]; to: [number, number] }>();
  const picture = useRef<HTMLImageElement>(null);
  if (!artwork) return <p className="soft">There is no artwork to sample.</p>;
  const share = (event: React.PointerEvent): [number, number] => {
    const box = picture.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    const clip = (value: number) => Math.min(Math.max(value, 0), 1);
    return [clip((event.clientX - box.left) / box.width), clip((event.clientY - box.top) / box.height)];
  };
  const [x0, x1] = dragged ? [dragged.from[0], dragged.to[0]].sort((a, b) => a - b) : [0, 1];
  const [y0, y1] = dragged ? [dragged.from[1], dragged.to[1]].sort((a, b) => a - b) : [0, 1];
  const left = Math.floor((x0 ?? 0) * artwork.width);
  const top = Math.floor((y0 ?? 0) * artwork.height);
  const width = Math.max(1, Math.floor((x1 ?? 1) * artwork.width) - left);
  const height = Math.max(1, Math.floor((y1 ?? 1) * artwork.height) - top);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onDone({ artwork_id: artwork.id, rectangle: [left, top, width, height], across, down });
      }}
    >
      <select
        className="field"
        aria-label="Artwork to sample"
        value={artwork.id}
        onChange={(event) => {
          setId(Number(event.target.value));
          setDragged(undefined);
        }}
      >
        {artworks.map((each) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
      </select>
      <div
        className="sample-picture"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          const at = share(event);
          setDragged({ from: at, to: at });
        }}
        onPointerMove={(event) => event.buttons && dragged && setDragged({ ...dragged, to: share(event) })}
      >
        <img
          ref={picture}
          alt={`${artwork.name}: drag a rectangle`}
          draggable={false}
          src={`/api/artworks/${artwork.id}/thumbnail?version=${artwork.version}`}
        />
        {dragged && (
          <i
            style={{
              left: `${(x0 ?? 0) * 100}%`,
              top: `${(y0 ?? 0) * 100}%`,
              width: `${((x1 ?? 1) - (x0 ?? 0)) * 100}%`,
              height: `${((y1 ?? 1) - (y0 ?? 0)) * 100}%`,
            }}
          />
        )}
      </div>
      <span className="soft">
        {dragged ? `${width} × ${height} pixels at ${left}, ${top}` : "All of it; drag a rectangle for less."}
      </span>
      <label>
        Fields{" "}
        <input
          className="field short"
          type="number"
          min={1}
          max={200}
          value={across}
          aria-label="Fields across"
          onChange={(event) => setAcross(Number(event.target.value))}
        />{" "}
        ×{" "}
        <input
          className="field short"
          type="number"
          min={1}
          max={200}
          value={down}
          aria-label="Fields down"
          onChange={(event) => setDown(Number(event.target.value))}
        />
      </label>
      <Button type="submit">Add the samples</Button>
    </form>
  );
}

function GridForm({
  names,
  onDone,
}: {
  names: [string, string][];
  onDone: (body: { profile: string; side: number }) => void;
}) {
  const [profile, setProfile] = useState(names[0]?.[0] ?? "sRGB");
  const [side, setSide] = useState(9);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onDone({ profile, side });
      }}
    >
      <select
        className="field"
        aria-label="Device of the grid"
        value={profile}
        onChange={(event) => setProfile(event.target.value)}
      >
        {names.map(([choice, text]) => (
          <option key={choice} value={choice}>
            {text}
          </option>
        ))}
      </select>
      <label>
        Steps a channel{" "}
        <input
          className="field short"
          type="number"
          min={2}
          max={46}
          value={side}
          onChange={(event) => setSide(Number(event.target.value))}
        />
      </label>
      <Button type="submit">Add the grid</Button>
    </form>
  );
}
