import type { Look } from "./useLook";

interface Props {
  look: Look;
  inks: string[];
  zoomText: string;
  fitted: boolean;
  onZoom: (direction: 1 | -1) => void;
  onFit: () => void;
}

/** How the picture is shown, each with its key. */
export function StageTools({ look, inks, zoomText, fitted, onZoom, onFit }: Props) {
  const togglePlate = (ink: string) =>
    look.setPlates(
      look.plates.includes(ink) ? look.plates.filter((each) => each !== ink) : [...look.plates, ink],
    );
  return (
    <div className="tools" role="toolbar" aria-label="How the picture is shown">
      <div>
        <button type="button" aria-pressed={!look.wipe} onClick={look.whole}>
          Whole
        </button>
        <button type="button" aria-pressed={look.wipe} onClick={() => look.toggle("wipe")}>
          Wipe<kbd>W</kbd>
        </button>
      </div>
      <div>
        <button type="button" aria-pressed={look.gamut} onClick={() => look.toggle("gamut")}>
          Out of gamut<kbd>O</kbd>
        </button>
        <button type="button" aria-pressed={look.coverage} onClick={() => look.toggle("coverage")}>
          Coverage<kbd>L</kbd>
        </button>
      </div>
      <div>
        <button type="button" aria-pressed={look.plates.length === 0} onClick={() => look.setPlates([])}>
          All inks
        </button>
        {inks.map((ink) => (
          <button
            key={ink}
            type="button"
            aria-label={`Plate ${ink}`}
            aria-pressed={look.plates.includes(ink)}
            onClick={() => togglePlate(ink)}
          >
            {ink}
          </button>
        ))}
        {look.plates.length > 0 && (
          <button type="button" aria-pressed={look.grayPlates} onClick={() => look.toggle("gray")}>
            As gray
          </button>
        )}
      </div>
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
