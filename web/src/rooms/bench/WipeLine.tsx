import "./WipeLine.css";
import type { RefObject } from "react";
import type { Placing, Size } from "./geometry";

interface Props {
  cut: number;
  placing: Placing;
  artwork: Size;
  stage: RefObject<HTMLElement | null>;
  wipeAt: number;
  onWipe: (share: number) => void;
}

const held = (share: number) => Math.min(Math.max(share, 0), 1);

/** The line between artwork and print, dragged or moved with the arrow keys. */
export function WipeLine({ cut, placing, artwork, stage, wipeAt, onWipe }: Props) {
  return (
    <div
      className="wipe-line"
      role="slider"
      tabIndex={0}
      aria-label="Wipe between artwork and print"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(wipeAt * 100)}
      aria-valuetext={`${Math.round(wipeAt * 100)} % of the artwork shown`}
      style={{ left: cut, top: placing.y, height: artwork.height * placing.zoom }}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowDown: -0.02, ArrowRight: 0.02, ArrowUp: 0.02 }[event.key];
        const to = { Home: 0, End: 1 }[event.key] ?? (by && held(wipeAt + by));
        if (to === undefined) return;
        event.preventDefault();
        onWipe(to);
      }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        const left = stage.current?.getBoundingClientRect().left ?? 0;
        onWipe(held((event.clientX - left - placing.x) / (artwork.width * placing.zoom)));
      }}
    />
  );
}
