import { type RefObject, useState } from "react";
import { drivenByRgb } from "../../shared/inks";
import type { Layout, MapName, ViewState } from "./useViewState";

interface Props {
  /** Who asks how much of the stage the tools take. */
  box: RefObject<HTMLDivElement | null>;
  viewState: ViewState;
  inks: string[];
  zoomText: string;
  fitted: boolean;
  onZoom: (direction: 1 | -1) => void;
  onFit: () => void;
}

export const LAYOUTS: [Layout, string, string][] = [
  ["whole", "Whole", ""],
  ["wipe", "Wipe", "W"],
  ["pair", "Pair", "E"],
  ["sheet", "Sheet", "R"],
];
const MAPS: [MapName, string, string][] = [
  ["coverage", "Coverage map", "L"],
  ["difference", "ΔE map", "D"],
];

/** The ways to lay the picture out. */
export function LayoutTools({ viewState }: { viewState: ViewState }) {
  return (
    <div>
      {LAYOUTS.map(([layout, name, key]) => (
        <button
          key={layout}
          type="button"
          aria-pressed={viewState.layout === layout}
          onClick={() => viewState.lay(layout)}
        >
          {name}
          {key && <kbd>{key}</kbd>}
        </button>
      ))}
    </div>
  );
}

/** How the picture is shown, each with its key. */
export function StageTools({ box, viewState, inks, zoomText, fitted, onZoom, onFit }: Props) {
  const rgb = drivenByRgb(inks);
  // Where there is little room, what is looked at less waits behind a button.
  const [all, setAll] = useState(false);
  const togglePlate = (ink: string) =>
    viewState.setPlates(
      viewState.plates.includes(ink)
        ? viewState.plates.filter((each) => each !== ink)
        : [...viewState.plates, ink],
    );
  return (
    <div ref={box} className="tools" role="toolbar" aria-label="How the picture is shown" data-all={all}>
      <LayoutTools viewState={viewState} />
      <div className="stage-more">
        <button type="button" aria-expanded={all} onClick={() => setAll(!all)}>
          Maps and plates
        </button>
      </div>
      <div className="stage-extra">
        <button
          type="button"
          aria-pressed={viewState.mark === "gamut"}
          onClick={() => viewState.showMark("gamut")}
        >
          Out of gamut<kbd>O</kbd>
        </button>
        {MAPS.filter(([map]) => !rgb || map !== "coverage").map(([map, name, key]) => (
          <button
            key={map}
            type="button"
            aria-pressed={viewState.map === map}
            onClick={() => viewState.showMap(map)}
          >
            {name}
            <kbd>{key}</kbd>
          </button>
        ))}
      </div>
      {!rgb && (
        <div className="stage-extra">
          <button
            type="button"
            aria-pressed={viewState.plates.length === 0}
            onClick={() => viewState.setPlates([])}
          >
            All inks
          </button>
          {inks.map((ink) => (
            <button
              key={ink}
              type="button"
              aria-label={`Plate ${ink}`}
              aria-pressed={viewState.plates.includes(ink)}
              onClick={() => togglePlate(ink)}
            >
              {ink}
            </button>
          ))}
          {viewState.plates.length > 0 && (
            <button
              type="button"
              aria-pressed={viewState.grayPlates}
              onClick={() => viewState.toggle("gray")}
            >
              As gray
            </button>
          )}
        </div>
      )}
      <div>
        <button type="button" aria-label="Smaller" onClick={() => onZoom(-1)}>
          −
        </button>
        <button type="button" title={fitted ? "Show actual pixels" : "Fit the whole artwork"} onClick={onFit}>
          {fitted ? `Fit ${zoomText}` : zoomText}
          <kbd>0</kbd>
        </button>
        <button type="button" aria-label="Larger" onClick={() => onZoom(1)}>
          +
        </button>
      </div>
    </div>
  );
}
