import "./Below.css";
import { type KeyboardEvent, type PointerEvent, type ReactNode, useRef, useState } from "react";
import { usePreference } from "../../shared/preferences";
import { SHORT, useMedia } from "../../shared/ui/useMedia";
import type { BottomTab, ViewState } from "./useViewState";

const TABS: [BottomTab, string][] = [
  ["pins", "Pins"],
  ["hits", "Largest errors"],
  ["palette", "Palette"],
];
const [LEAST_PX, USUAL_PX, MOST_SHARE] = [64, 182, 0.6];

const held = (height: number) =>
  Math.round(Math.min(Math.max(height, LEAST_PX), window.innerHeight * MOST_SHARE));

/** What stands below the picture: pins, the largest errors, or a palette; as high as its upper edge is dragged. */
export function Below({ viewState, children }: { viewState: ViewState; children: ReactNode }) {
  const [kept, setKept] = usePreference<number | null>("below", null);
  const [moving, setMoving] = useState<number>();
  const frame = useRef<HTMLElement>(null);
  // Where a page is low, the picture has its height until the strip is asked for.
  const short = useMedia(SHORT);
  const [open, setOpen] = useState(false);
  const shown = !short || open;
  // As high as what is in it, up to the usual height, until somebody drags it.
  const wanted = moving ?? kept;
  const height = held(short ? Math.min(wanted ?? USUAL_PX, window.innerHeight * 0.3) : (wanted ?? USUAL_PX));
  const size = wanted === null ? { maxHeight: height } : { height, maxHeight: "none" };

  function drag(event: PointerEvent) {
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !frame.current) return;
    setMoving(held(frame.current.getBoundingClientRect().bottom - event.clientY));
  }
  function rest() {
    if (moving !== undefined) setKept(moving);
    setMoving(undefined);
  }
  function key(event: KeyboardEvent) {
    const by = { ArrowUp: 16, ArrowDown: -16, PageUp: 80, PageDown: -80 }[event.key];
    if (!by) return;
    event.preventDefault();
    setKept(held(height + by));
  }
  function choose(tab: BottomTab) {
    setOpen(viewState.tab !== tab || !open);
    viewState.showTab(tab);
  }

  return (
    <section
      ref={frame}
      className="below"
      style={shown ? size : undefined}
      data-shown={shown}
      aria-label={TABS.find(([tab]) => tab === viewState.tab)?.[1]}
    >
      <div className="tabs" role="toolbar" aria-label="Below the picture">
        {TABS.map(([tab, name]) => (
          <button
            key={tab}
            type="button"
            className="tab"
            aria-pressed={viewState.tab === tab && shown}
            onClick={() => choose(tab)}
          >
            {name}
          </button>
        ))}
        {shown && (
          <div
            className="below-edge"
            role="slider"
            tabIndex={0}
            aria-orientation="vertical"
            aria-label="Height of this strip"
            aria-valuemin={LEAST_PX}
            aria-valuemax={Math.round(window.innerHeight * MOST_SHARE)}
            aria-valuenow={height}
            onKeyDown={key}
            onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
            onPointerMove={drag}
            onPointerUp={rest}
            onDoubleClick={() => setKept(null)}
          />
        )}
      </div>
      {shown && children}
    </section>
  );
}
