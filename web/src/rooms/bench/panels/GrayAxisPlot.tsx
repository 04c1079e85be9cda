import { useRef } from "react";
import type { InkFigures } from "../../../api/client";
import { inkColor, inkName } from "../../../shared/inks";
import { LinePlot } from "../../../shared/plots/LinePlot";

interface Props {
  figures: InkFigures | undefined;
  /** The artwork's space: its grays are R = G = B, or its black alone. */
  space: string;
}

/** Inks along the grays, light to dark; thin as they were when the panel was opened. */
export function GrayAxisPlot({ figures, space }: Props) {
  const before = useRef<InkFigures>(undefined);
  before.current ??= figures;
  const cmyk = space === "CMYK";
  const lines = (of: InkFigures | undefined, thin: boolean) =>
    Object.entries(of?.gray_axis ?? {}).map(([ink, values]) => ({
      name: inkName(ink),
      color: inkColor(ink),
      thin,
      dash: thin ? "3 3" : undefined,
      unnamed: thin,
      points: values.map((value, step): [number, number] => {
        const dark = step / Math.max(values.length - 1, 1);
        return [cmyk ? dark * 100 : 255 - dark * 255, value * 100];
      }),
    }));
  const moved = figures && JSON.stringify(before.current?.gray_axis) !== JSON.stringify(figures.gray_axis);
  return (
    <LinePlot
      title="Inks along the gray axis"
      note={moved ? "dashed: as the panel was opened" : undefined}
      x={
        cmyk
          ? { name: "K of the artwork", short: "K", unit: "%", range: [0, 100] }
          : {
              name: "gray of the artwork, R = G = B",
              short: "gray",
              range: [255, 0],
              ticks: [255, 192, 128, 64, 0],
              text: (value) => String(Math.round(value)),
            }
      }
      y={{ name: "ink", unit: "%", range: [0, 100] }}
      height={158}
      lines={[...(moved ? lines(before.current, true) : []), ...lines(figures, false)]}
    />
  );
}
