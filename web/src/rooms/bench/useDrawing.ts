import { useState } from "react";
import type { Size } from "./geometry";

export type Tool = "rectangle" | "outline" | "color" | "hue";
type Corner = [number, number];

const MOST_CORNERS = 300;

/** Drawing a region on the stage: corners are fractions of the artwork's width and height. */
export function useDrawing(
  artwork: Size,
  onOutline: (corners: Corner[]) => void,
  onColor: (pixel: [number, number], tool: "color" | "hue") => void,
) {
  const [tool, setTool] = useState<Tool>();
  const [corners, setCorners] = useState<Corner[]>([]);
  const [from, setFrom] = useState<Corner>();
  const share = ([x, y]: [number, number]): Corner => [(x + 0.5) / artwork.width, (y + 0.5) / artwork.height];

  return {
    tool,
    corners,
    choose: (wanted: Tool | undefined) => {
      setTool(wanted === tool ? undefined : wanted);
      setCorners([]);
    },
    down: (pixel: [number, number] | undefined) => {
      if (!pixel || !tool) return;
      if (tool === "color" || tool === "hue") {
        onColor(pixel, tool);
        setTool(undefined);
        return;
      }
      setFrom(share(pixel));
      setCorners([share(pixel)]);
    },
    move: (pixel: [number, number] | undefined) => {
      if (!pixel || !from) return;
      const [x, y] = share(pixel);
      if (tool === "rectangle") setCorners([from, [x, from[1]], [x, y], [from[0], y]]);
      else
        setCorners((now) => {
          const [lx, ly] = now[now.length - 1] ?? from;
          return Math.hypot(x - lx, y - ly) > 0.003 ? [...now, [x, y]] : now;
        });
    },
    up: () => {
      if (!from) return;
      setFrom(undefined);
      setTool(undefined);
      setCorners([]);
      const every = Math.ceil(corners.length / MOST_CORNERS);
      const kept = corners.filter((_, index) => index % every === 0);
      if (kept.length >= 3) onOutline(kept);
    },
  };
}

export type Drawing = ReturnType<typeof useDrawing>;
