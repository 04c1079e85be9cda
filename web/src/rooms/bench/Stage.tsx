import { type PointerEvent, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Artwork, Condition, InkFigures, Pin, Recipe, View } from "../../api/client";
import { percent } from "../../app/figures";
import {
  hold,
  nextZoom,
  type Placing,
  pixelAt,
  fitted as placeFitted,
  type Size,
  visible,
  zoomAt,
} from "./geometry";
import { StageTools } from "./StageTools";
import type { Look } from "./useLook";
import { type Picture, usePicture } from "./usePicture";

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe;
  look: Look;
  ink: InkFigures | undefined;
  pins: Pin[];
  flipped: boolean;
  onPoint: (pixel: [number, number] | undefined) => void;
  /** Counts up when the keyboard asks for a zoom step; the sign says which way, 0 toggles fit and actual pixels. */
  zoomKey: { count: number; direction: -1 | 0 | 1 };
}

/** The artwork on neutral gray: whole or wiped, zoomed and dragged, computed for what is visible. */
export function Stage({ artwork, condition, recipe, look, ink, pins, flipped, onPoint, zoomKey }: Props) {
  const stageRef = useRef<HTMLDivElement>(null);
  const canvasRef = useRef<HTMLCanvasElement>(null);
  const [stage, setStage] = useState<Size>({ width: 0, height: 0 });
  const [placing, setPlacing] = useState<Placing>();
  const [fitted, setFitted] = useState(true);
  const [dragging, setDragging] = useState(false);
  const [wipeAt, setWipeAt] = useState(0.5);
  const pointer = useRef<[number, number]>([0, 0]);

  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      if (entry)
        setStage({
          width: Math.floor(entry.contentRect.width),
          height: Math.floor(entry.contentRect.height),
        });
    });
    if (stageRef.current) observer.observe(stageRef.current);
    return () => observer.disconnect();
  }, []);

  useEffect(() => {
    if (stage.width && fitted) setPlacing(placeFitted(artwork, stage));
  }, [artwork, stage, fitted]);

  const zoomTo = (zoom: number, at?: [number, number]) => {
    if (!placing) return;
    setFitted(false);
    const [cx, cy] = at ?? [stage.width / 2, stage.height / 2];
    setPlacing(hold(zoomAt(placing, zoom, cx, cy), artwork, stage));
  };
  const atPointer = (): [number, number] | undefined =>
    placing && pixelAt(placing, artwork, ...pointer.current) ? pointer.current : undefined;

  // biome-ignore lint/correctness/useExhaustiveDependencies: one step for each time a key was pressed
  useEffect(() => {
    if (!zoomKey.count || !placing) return;
    if (zoomKey.direction === 0) fitted ? zoomTo(1, atPointer()) : setFitted(true);
    else zoomTo(nextZoom(placing.zoom, zoomKey.direction), atPointer());
  }, [zoomKey.count]);

  const window = placing && stage.width ? visible(placing, artwork, stage) : undefined;
  const base = { artworkId: artwork.id, slug: condition.slug };
  const showsArtwork = look.station === "source" && !look.coverage && look.plates.length === 0;
  const view: View = {
    show: look.coverage ? "coverage" : showsArtwork ? "artwork" : "print",
    substrate: look.substrate,
    plates: look.plates,
    tint: look.grayPlates ? "gray" : "ink",
    mark_gamut: look.gamut,
    tolerance: look.marks.tolerance,
    mark_color: look.marks.color,
    mark_angle_deg: look.marks.angle,
  };
  const plain: View = { ...view, show: "artwork", mark_gamut: false, plates: [] };
  const main = usePicture(window && { ...base, body: { recipe, view, window } });
  const needsArtwork = view.show !== "artwork" && (look.wipe || flipped);
  const original = usePicture(
    window && needsArtwork
      ? { ...base, body: { recipe: sourceOnly(recipe), view: plain, window } }
      : undefined,
  );

  const cut = placing ? Math.round(placing.x + wipeAt * artwork.width * placing.zoom) : 0;
  const wiping = look.wipe && view.show !== "artwork";
  useEffect(() => {
    const canvas = canvasRef.current;
    const pen = canvas?.getContext("2d");
    if (!canvas || !pen || !placing) return;
    if (canvas.width !== stage.width || canvas.height !== stage.height) {
      canvas.width = stage.width;
      canvas.height = stage.height;
    }
    pen.clearRect(0, 0, canvas.width, canvas.height);
    if (flipped && original.picture) draw(pen, original.picture, placing);
    else {
      draw(pen, main.picture, placing);
      if (wiping && original.picture) {
        pen.save();
        pen.beginPath();
        pen.rect(0, 0, cut, stage.height);
        pen.clip();
        draw(pen, original.picture, placing);
        pen.restore();
      }
    }
  }, [main.picture, original.picture, placing, stage, flipped, wiping, cut]);

  function down(event: PointerEvent<HTMLCanvasElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    setDragging(true);
  }
  function move(event: PointerEvent<HTMLCanvasElement>) {
    const box = event.currentTarget.getBoundingClientRect();
    pointer.current = [event.clientX - box.left, event.clientY - box.top];
    if (!placing) return;
    if (dragging && (event.movementX || event.movementY)) {
      setFitted(false);
      setPlacing(
        (now) =>
          now && hold({ ...now, x: now.x + event.movementX, y: now.y + event.movementY }, artwork, stage),
      );
    }
    onPoint(pixelAt(placing, artwork, ...pointer.current));
  }

  // The wheel must not scroll the page, and React's own handler cannot say so.
  useEffect(() => {
    const canvas = canvasRef.current;
    if (!canvas) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = canvas.getBoundingClientRect();
      const at: [number, number] = [event.clientX - box.left, event.clientY - box.top];
      setFitted(false);
      setPlacing(
        (now) =>
          now && hold(zoomAt(now, nextZoom(now.zoom, event.deltaY < 0 ? 1 : -1), ...at), artwork, stage),
      );
    };
    canvas.addEventListener("wheel", wheel, { passive: false });
    return () => canvas.removeEventListener("wheel", wheel);
  }, [artwork, stage]);

  const shown =
    flipped || view.show === "artwork" ? artworkTag(artwork, recipe) : printTag(condition, look, ink);
  const failed = main.error ?? original.error;
  return (
    <div
      className="stage"
      ref={stageRef}
      data-drag={dragging}
      data-ready={!main.busy && main.picture !== undefined}
    >
      <canvas
        ref={canvasRef}
        aria-label={shown}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={() => setDragging(false)}
        onPointerLeave={() => onPoint(undefined)}
      />
      {placing && !failed && (
        <>
          <span className="tag" style={{ left: Math.max(placing.x, 12), top: Math.max(placing.y - 24, 8) }}>
            {wiping ? artworkTag(artwork, recipe) : shown}
          </span>
          {wiping && cut < stage.width - 150 && (
            <span className="tag" style={{ left: Math.max(cut + 8, 12), top: Math.max(placing.y - 24, 8) }}>
              {printTag(condition, look, ink)}
            </span>
          )}
        </>
      )}
      {wiping && placing && (
        <button
          type="button"
          className="wipe-line"
          aria-label="Wipe between artwork and print; arrow keys move it"
          style={{ left: cut, top: placing.y, height: artwork.height * placing.zoom }}
          onKeyDown={(event) => {
            const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
            if (by) setWipeAt(Math.min(Math.max(wipeAt + by, 0), 1));
          }}
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={(event) => {
            if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
            const left = stageRef.current?.getBoundingClientRect().left ?? 0;
            const share = (event.clientX - left - placing.x) / (artwork.width * placing.zoom);
            setWipeAt(Math.min(Math.max(share, 0), 1));
          }}
        />
      )}
      {placing &&
        pins.map((pin, index) => (
          <span
            key={pin.id}
            className="pin"
            style={{
              left: placing.x + (pin.x + 0.5) * placing.zoom,
              top: placing.y + (pin.y + 0.5) * placing.zoom,
            }}
          >
            {index + 1}
          </span>
        ))}
      {main.busy && <span className="state">computing</span>}
      {failed && <p className="notice message">{failed}</p>}
      <StageTools
        look={look}
        inks={condition.inks}
        zoomText={placing ? percent(placing.zoom * 100) : ""}
        fitted={fitted}
        onZoom={(direction) => placing && zoomTo(nextZoom(placing.zoom, direction))}
        onFit={() => (fitted ? zoomTo(1) : setFitted(true))}
      />
    </div>
  );
}

/** The artwork's own picture depends on its source profile alone; a moving ink slider need not fetch it again. */
function sourceOnly(recipe: Recipe): Recipe {
  const neutral = { total_percent: 300, per_ink_percent: [] };
  return { ...recipe, ink: { ...recipe.ink, limits: neutral } };
}

function artworkTag(artwork: Artwork, recipe: Recipe): string {
  const profile = recipe.source.profile === "embedded" ? artwork.profile_name : recipe.source.profile;
  return `${artwork.name.replace(/\.[^.]+$/, "")}, ${profile || "no profile"}`;
}

function printTag(condition: Condition, look: Look, ink: InkFigures | undefined): string {
  if (look.coverage) {
    const scale = `white 0 to black ${condition.inks.length * 100} %`;
    if (!ink) return `coverage before limiting, ${scale}`;
    const { wanted_largest_percent, wanted_largest_at } = ink.coverage;
    return `coverage before limiting, ${scale}; largest ${percent(wanted_largest_percent)} at ${wanted_largest_at.join(", ")}`;
  }
  if (look.plates.length) return `${look.plates.join(" + ")} plate: ${condition.name}`;
  return `as printed: ${condition.name}${look.substrate ? ", on its substrate" : ""}`;
}

function draw(pen: CanvasRenderingContext2D, picture: Picture | undefined, placing: Placing) {
  if (!picture) return;
  const { bitmap, window } = picture;
  const scale = placing.zoom / window.zoom;
  pen.imageSmoothingEnabled = scale !== 1 && placing.zoom < 1;
  pen.drawImage(
    bitmap,
    placing.x + window.left * placing.zoom,
    placing.y + window.top * placing.zoom,
    window.width * scale,
    window.height * scale,
  );
}
