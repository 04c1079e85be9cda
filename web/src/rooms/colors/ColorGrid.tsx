import "./ColorGrid.css";
import { useEffect, useRef, useState } from "react";
import {
  type ColorRow,
  ROWS_AT_ONCE,
  rowsBetween,
  type TravelAsked,
  type Travelled,
  useRowPages,
} from "../../api/colorQueries";
import { fixed } from "../../shared/figures";

const ROW = 25;

interface Props {
  asked: TravelAsked;
  travelled: Travelled;
  chosen: ReadonlySet<number>;
  showValues: boolean;
  onChoose: (rows: ReadonlySet<number>) => void;
  onSort: (sort: string) => void;
}

/** Colors a row each, every step's values side by side; only rows in view are there, whatever the length of the list. */
export function ColorGrid({ asked, travelled, chosen, showValues, onChoose, onSort }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  const [height, setHeight] = useState(600);
  const last = useRef<number>(undefined);
  const [failed, setFailed] = useState<string>();
  useEffect(() => {
    if (!box.current) return;
    const seen = new ResizeObserver(([entry]) => entry && setHeight(entry.contentRect.height));
    seen.observe(box.current);
    return () => seen.disconnect();
  }, []);
  const order = `${asked.list_id} ${asked.sort} ${asked.descending} ${asked.search} ${asked.over}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another order begins at its top
  useEffect(() => void box.current?.scrollTo({ top: 0 }), [order]);

  const { total } = travelled;
  const columns = travelled.columns.map((column, at) => ({ ...column, at, id: `c${at}` }));
  const begin = Math.max(0, Math.floor(top / ROW) - 12);
  const end = Math.min(total, Math.ceil((top + height) / ROW) + 12);
  const pages: number[] = [];
  for (let page = Math.floor(begin / ROWS_AT_ONCE); page * ROWS_AT_ONCE < end; page++) pages.push(page);
  const { loaded, stale } = useRowPages(asked, pages);
  const rowAt = (place: number): ColorRow | undefined => {
    const page = Math.floor(place / ROWS_AT_ONCE);
    return loaded[pages.indexOf(page)]?.rows[place % ROWS_AT_ONCE];
  };
  const places = Array.from({ length: Math.max(0, end - begin) }, (_, at) => begin + at);

  /** Everything from one place to before another, of which most was never loaded. */
  function chooseSpan(from: number, until: number) {
    setFailed(undefined);
    rowsBetween(asked, from, until).then(
      (rows) => onChoose(new Set([...chosen, ...rows])),
      (cause: Error) => setFailed(cause.message),
    );
  }
  function press(place: number, row: ColorRow, range: boolean) {
    const from = last.current;
    last.current = place;
    if (range && from !== undefined) return chooseSpan(Math.min(from, place), Math.max(from, place) + 1);
    const next = new Set(chosen);
    if (!next.delete(row.index)) next.add(row.index);
    onChoose(next);
  }
  const head = (sort: string, text: string, number = true, hint?: string) => (
    <th
      key={sort}
      className={number ? "number" : ""}
      aria-sort={asked.sort === sort ? (asked.descending ? "descending" : "ascending") : "none"}
    >
      <button type="button" title={hint} onClick={() => onSort(sort)}>
        {text}
        {asked.sort === sort && (asked.descending ? " ↓" : " ↑")}
      </button>
    </th>
  );
  return (
    <div className="color-grid" ref={box} onScroll={(event) => setTop(event.currentTarget.scrollTop)}>
      {failed && (
        <p className="notice" role="alert">
          {failed}
        </p>
      )}
      <table aria-rowcount={total + 2} aria-label="Colors along the route" aria-busy={stale}>
        <thead>
          <tr>
            <th colSpan={2}>
              <span className="visually-hidden">Number and name</span>
            </th>
            {columns.map((column) => (
              <th key={column.id} colSpan={5 + (showValues && !column.is_lab ? 1 : 0)} className="group">
                {column.at + 1} {column.name}
              </th>
            ))}
            <th className="group">ΔE00{asked.light === "D50" ? "" : ` under ${asked.light}`}</th>
          </tr>
          <tr>
            <th>
              <input
                type="checkbox"
                aria-label="Choose all that are listed"
                ref={(box) => {
                  if (box) box.indeterminate = chosen.size > 0 && chosen.size < total;
                }}
                checked={total > 0 && chosen.size >= total}
                onChange={() => (chosen.size >= total ? onChoose(new Set()) : chooseSpan(0, total))}
              />
            </th>
            {head("name", "Color", false)}
            {columns.flatMap((column) => [
              ...(showValues && !column.is_lab
                ? [
                    <th key={`v${column.id}`} className="number">
                      <span className="codes">
                        {column.channels.map((channel) => (
                          <span key={channel}>{channel}</span>
                        ))}
                      </span>
                    </th>,
                  ]
                : []),
              head(`L:${column.at}`, "L*"),
              <th key={`a${column.id}`} className="number">
                a*
              </th>,
              <th key={`b${column.id}`} className="number">
                b*
              </th>,
              head(`C:${column.at}`, "C*"),
              head(`h:${column.at}`, "h°"),
            ])}
            {head("difference", `${asked.first + 1} → ${asked.second + 1}`)}
          </tr>
        </thead>
        <tbody>
          {begin > 0 && <tr style={{ height: begin * ROW }} />}
          {places.map((place) => {
            const row = rowAt(place);
            return (
              <tr
                key={place}
                aria-rowindex={place + 3}
                data-chosen={(row && chosen.has(row.index)) || undefined}
              >
                {row ? (
                  <Cells row={row} travelled={travelled} showValues={showValues}>
                    <input
                      type="checkbox"
                      aria-label={`Choose ${row.name}`}
                      checked={chosen.has(row.index)}
                      onChange={() => undefined}
                      onClick={(event) => press(place, row, event.shiftKey)}
                    />
                  </Cells>
                ) : (
                  <td className="soft" colSpan={columns.length * 6 + 3}>
                    …
                  </td>
                )}
              </tr>
            );
          })}
          {end < total && <tr style={{ height: (total - end) * ROW }} />}
        </tbody>
      </table>
    </div>
  );
}

interface CellsProps {
  row: ColorRow;
  travelled: Travelled;
  showValues: boolean;
  children: React.ReactNode;
}

function Cells({ row, travelled, showValues, children }: CellsProps) {
  const lastCell = row.cells.at(-1);
  return (
    <>
      <td>{children}</td>
      <td className="name">
        <span className="swatch" style={{ background: row.cells[0]?.swatch || "none" }} />
        <span className="swatch last" style={{ background: lastCell?.swatch || "none" }} />
        {row.name}
      </td>
      {travelled.columns.flatMap((column, at) => {
        const cell = row.cells[at];
        const id = `${column.name} ${at}`;
        if (!cell) return [];
        const out = cell.out_of_gamut ? " out" : "";
        return [
          ...(showValues && !column.is_lab
            ? [
                <td key={`v ${id}`} className="number">
                  <span className="codes">
                    {column.channels.map((channel, place) => (
                      <span key={channel}>{fixed(cell.values[place] ?? 0, 0)}</span>
                    ))}
                  </span>
                </td>,
              ]
            : []),
          ...[0, 1, 2].map((axis) => (
            <td key={`${axis} ${id}`} className={`number${out}`}>
              {cell.lab ? fixed(cell.lab[axis] ?? 0) : "–"}
            </td>
          )),
          ...[1, 2].map((axis) => (
            <td key={`p${axis} ${id}`} className="number soft">
              {cell.lch ? fixed(cell.lch[axis] ?? 0, axis === 2 ? 0 : 1) : "–"}
            </td>
          )),
        ];
      })}
      <td className="number strong">{row.difference === null ? "–" : fixed(row.difference, 2)}</td>
    </>
  );
}
