import { type RefObject, useEffect, useLayoutEffect, useState } from "react";
import { hold, nextZoom, type Placing, fitted as placeFitted, type Size, zoomAt } from "./geometry";

/** Where the artwork lies on a pane: fitted, above the tools, until somebody zooms or drags. */
export function usePlacing(
  pane: RefObject<HTMLElement | null>,
  artwork: Size,
  panes: 1 | 2,
  tools?: RefObject<HTMLElement | null>,
) {
  const [whole, setWhole] = useState<Size>({ width: 0, height: 0 });
  const [taken, setTaken] = useState<number>();
  const [placing, setPlacing] = useState<Placing>();
  const [fitted, setFitted] = useState(true);

  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      if (entry)
        setWhole({
          width: Math.floor(entry.contentRect.width),
          height: Math.floor(entry.contentRect.height),
        });
    });
    const below = new ResizeObserver(([entry]) => {
      if (entry) setTaken(Math.ceil(entry.contentRect.height));
    });
    if (pane.current) observer.observe(pane.current);
    if (tools?.current) below.observe(tools.current);
    return () => {
      observer.disconnect();
      below.disconnect();
    };
  }, [pane, tools]);

  const stage = { width: Math.floor(whole.width / panes), height: whole.height };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the sides of the artwork and of the pane are what counts
  useEffect(() => {
    if (stage.width && fitted) setPlacing(placeFitted(artwork, stage, taken));
  }, [artwork.width, artwork.height, stage.width, stage.height, taken, fitted]);

  const zoomTo = (zoom: number, at?: [number, number]) => {
    if (!placing) return;
    setFitted(false);
    const [cx, cy] = at ?? [stage.width / 2, stage.height / 2];
    setPlacing(hold(zoomAt(placing, zoom, cx, cy), artwork, stage));
  };
  return {
    whole,
    stage,
    placing,
    fitted,
    fit: () => setFitted(true),
    zoomTo,
    step: (direction: 1 | -1, at?: [number, number]) =>
      placing && zoomTo(nextZoom(placing.zoom, direction), at),
    drag: (dx: number, dy: number) => {
      setFitted(false);
      setPlacing((now) => now && hold({ ...now, x: now.x + dx, y: now.y + dy }, artwork, stage));
    },
  };
}
