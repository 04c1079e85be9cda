import { type KeyboardEvent, useState } from "react";
import type { Placing, Size } from "./geometry";
import type { Drawing } from "./useDrawing";

type Point = [number, number];

interface Given {
  placing: Placing | undefined;
  stage: Size;
  drawing: Drawing;
  pixelAt: (at: Point) => Point | undefined;
  onDrag: (dx: number, dy: number) => void;
  onPoint: (pixel: Point | undefined) => void;
  onPin: (pixel: Point) => void;
}

const STEP_PX = 4;
const EDGE_PX = 24;
const WAYS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/**
 * The picture by keys alone: arrows move a cross (with shift by ten steps), the picture goes along at its edges;
 * Enter drops a pin, or works the tool that is in the hand: a color or hue is taken, a rectangle is begun and ended, an
 * outline gets its next corner and is closed where it began or by Enter twice.
 */
export function useStageKeys({ placing, stage, drawing, pixelAt, onDrag, onPoint, onPin }: Given) {
  const [cross, setCross] = useState<Point>();
  const [corner, setCorner] = useState<Point>();

  function go([dx, dy]: Point, far: boolean) {
    const from = cross ?? [stage.width / 2, stage.height / 2];
    const by = STEP_PX * (far ? 10 : 1);
    const wanted: Point = cross ? [from[0] + dx * by, from[1] + dy * by] : from;
    const kept: Point = [
      Math.min(Math.max(wanted[0], EDGE_PX), stage.width - EDGE_PX),
      Math.min(Math.max(wanted[1], EDGE_PX), stage.height - EDGE_PX),
    ];
    if (kept[0] !== wanted[0] || kept[1] !== wanted[1]) onDrag(kept[0] - wanted[0], kept[1] - wanted[1]);
    setCross(kept);
    const pixel = pixelAt(kept);
    onPoint(pixel);
    if (corner) drawing.move(pixel);
  }

  function act() {
    const pixel = cross && pixelAt(cross);
    if (!cross || !pixel) return;
    if (!drawing.tool) return onPin(pixel);
    if (drawing.tool === "color" || drawing.tool === "hue") return drawing.down(pixel);
    if (!corner) {
      setCorner(cross);
      return drawing.down(pixel);
    }
    const back = Math.hypot(cross[0] - corner[0], cross[1] - corner[1]) < 2 * STEP_PX;
    if (drawing.tool === "outline" && !back && drawing.corners.length < 3) return drawing.move(pixel);
    setCorner(undefined);
    drawing.up();
  }

  function onKeyDown(event: KeyboardEvent) {
    if (!placing || event.ctrlKey || event.metaKey || event.altKey) return;
    const way = WAYS[event.key];
    if (way) go(way, event.shiftKey);
    else if (event.key === "Enter") act();
    else if (event.key === "Escape") {
      setCorner(undefined);
      drawing.choose(undefined);
      setCross(undefined);
      onPoint(undefined);
    } else return;
    event.preventDefault();
  }

  return { cross, onKeyDown, leave: () => setCross(undefined) };
}
