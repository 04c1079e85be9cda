import "./Stage.css";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Artwork, Condition, InkFigures, Pin, Recipe } from "../../api/client";
import { percent } from "../../shared/figures";
import { type Crop, nextZoom, type Placing, pixelAt, visible } from "./geometry";
import { RegionLayer } from "./RegionLayer";
import { artworkTag, forOriginal, originalRequest, printTag, renderRequest } from "./renderRequest";
import { StageTools } from "./StageTools";
import type { Drawing } from "./useDrawing";
import { type Picture, usePicture } from "./usePicture";
import { usePlacing } from "./usePlacing";
import { useStageKeys } from "./useStageKeys";
import type { ViewState } from "./useViewState";
import { WipeLine } from "./WipeLine";

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe;
  viewState: ViewState;
  ink: InkFigures | undefined;
  pins: Pin[];
  flipped: boolean;
  drawing: Drawing;
  /** Whether the artwork's numbers have a meaning: otherwise there is no picture to ask for. */
  hasColor: boolean;
  onPoint: (pixel: [number, number] | undefined) => void;
  onPin: (pixel: [number, number]) => void;
  /** What is looked at closely; undefined for the whole artwork. The sheet shows the same. */
  onCrop: (crop: Crop | undefined) => void;
  /** Counts up when the keyboard asks for a zoom step; the sign says which way, 0 toggles fit and actual pixels. */
  zoomKey: { count: number; direction: -1 | 0 | 1 };
}

/** The artwork on neutral gray: whole, wiped or as a pair, zoomed and dragged, computed for what is visible. */
export function Stage(props: Props) {
  const {
    artwork,
    condition,
    recipe,
    viewState,
    ink,
    pins,
    flipped,
    drawing,
    hasColor,
    onPoint,
    onPin,
    onCrop,
    zoomKey,
  } = props;
  const stageRef = useRef<HTMLDivElement>(null);
  const toolsRef = useRef<HTMLDivElement>(null);
  const canvasRef = useRef<HTMLCanvasElement>(null);
  const [dragging, setDragging] = useState(false);
  const [wipeAt, setWipeAt] = useState(0.5);
  const pointer = useRef<[number, number]>([0, 0]);
  const view = renderRequest(viewState);
  const paired = viewState.layout === "pair" && view.show !== "artwork";
  const at = usePlacing(stageRef, artwork, paired ? 2 : 1, toolsRef);
  const { placing, stage, whole } = at;
  const right = paired ? stage.width : 0;

  /** The pointer on the pane that it is over. */
  const onPane = (): [number, number] => [
    pointer.current[0] >= stage.width && paired ? pointer.current[0] - stage.width : pointer.current[0],
    pointer.current[1],
  ];
  const keys = useStageKeys({
    placing,
    stage,
    drawing,
    pixelAt: ([x, y]) => (placing ? pixelAt(placing, artwork, x, y) : undefined),
    onDrag: at.drag,
    onPoint,
    onPin,
  });
  const pixel = () => (placing ? pixelAt(placing, artwork, ...onPane()) : undefined);

  // biome-ignore lint/correctness/useExhaustiveDependencies: one step for each time a key was pressed
  useEffect(() => {
    if (!zoomKey.count || !placing) return;
    const under = pixel() && onPane();
    if (zoomKey.direction === 0) at.fitted ? at.zoomTo(1, under) : at.fit();
    else at.step(zoomKey.direction, under);
  }, [zoomKey.count]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: told when the picture lies elsewhere
  useEffect(() => {
    if (!placing) return;
    const { zoom, x, y } = placing;
    onCrop(
      at.fitted ? undefined : { zoom, x: (stage.width / 2 - x) / zoom, y: (stage.height / 2 - y) / zoom },
    );
  }, [placing, at.fitted]);

  const window = placing && stage.width ? visible(placing, artwork, stage) : undefined;
  const base = { artworkId: artwork.id, slug: condition.slug, version: artwork.version };
  const main = usePicture(window && hasColor ? { ...base, body: { recipe, view, window } } : undefined);
  const plain = originalRequest(viewState);
  const needsOriginal = view.show !== "artwork" && (viewState.layout === "wipe" || paired || flipped);
  const original = usePicture(
    window && hasColor && needsOriginal
      ? { ...base, body: { recipe: forOriginal(recipe, plain), view: plain, window } }
      : undefined,
  );

  const cut = placing ? Math.round(placing.x + wipeAt * artwork.width * placing.zoom) : 0;
  const wiping = viewState.layout === "wipe" && view.show !== "artwork" && !flipped;
  useEffect(() => {
    const canvas = canvasRef.current;
    // A P3 display is handed P3 numbers; anything else is taken as the browser takes it.
    const pen = canvas?.getContext("2d", { colorSpace: viewState.display === "P3" ? "display-p3" : "srgb" });
    if (!canvas || !pen || !placing) return;
    if (canvas.width !== whole.width || canvas.height !== whole.height) {
      canvas.width = whole.width;
      canvas.height = whole.height;
    }
    pen.clearRect(0, 0, canvas.width, canvas.height);
    const within = (left: number, width: number, picture: Picture | undefined, shift: number) => {
      pen.save();
      pen.beginPath();
      pen.rect(left, 0, width, whole.height);
      pen.clip();
      draw(pen, picture, { ...placing, x: placing.x + shift });
      pen.restore();
    };
    if (paired) {
      within(0, stage.width, original.picture, 0);
      within(right, stage.width, flipped ? original.picture : main.picture, right);
    } else {
      within(0, whole.width, flipped && original.picture ? original.picture : main.picture, 0);
      if (wiping) within(0, cut, original.picture, 0);
    }
    // For whoever measures how long a key takes to the canvas.
    performance.clearMarks("painted");
    performance.mark("painted");
  }, [
    main.picture, original.picture, placing, whole, stage.width, right, flipped, wiping, paired, cut, viewState.display,
  ]); // biome-ignore format: one line says it

  function move(event: PointerEvent<HTMLCanvasElement>) {
    const box = event.currentTarget.getBoundingClientRect();
    pointer.current = [event.clientX - box.left, event.clientY - box.top];
    if (drawing.tool && drawing.tool !== "color" && drawing.tool !== "hue") drawing.move(pixel());
    else if (dragging && (event.movementX || event.movementY)) at.drag(event.movementX, event.movementY);
    onPoint(pixel());
  }
  function down(event: PointerEvent<HTMLCanvasElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    if (drawing.tool) drawing.down(pixel());
    else setDragging(true);
  }
  function up() {
    setDragging(false);
    drawing.up();
  }

  // The wheel must not scroll the page, and React's own handler cannot say so.
  const step = useRef(at.zoomTo);
  step.current = (zoom, under) => at.zoomTo(zoom, under);
  const zoomNow = useRef(1);
  zoomNow.current = placing?.zoom ?? 1;
  useEffect(() => {
    const canvas = canvasRef.current;
    if (!canvas) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = canvas.getBoundingClientRect();
      const x = event.clientX - box.left;
      const under: [number, number] = [
        paired && x >= stage.width ? x - stage.width : x,
        event.clientY - box.top,
      ];
      step.current(nextZoom(zoomNow.current, event.deltaY < 0 ? 1 : -1), under);
    };
    canvas.addEventListener("wheel", wheel, { passive: false });
    return () => canvas.removeEventListener("wheel", wheel);
  }, [paired, stage.width]);

  const printed = printTag(condition, recipe, viewState, ink);
  const first = paired || wiping || flipped || view.show === "artwork";
  const failed = hasColor
    ? (main.error ?? original.error)
    : `'${artwork.name}' has no profile, so its numbers have no color yet. Choose a source profile at Source.`;
  const tagTop = placing ? Math.max(placing.y - 24, 8) : 0;
  return (
    <div
      className="stage"
      ref={stageRef}
      data-drag={dragging}
      data-ready={!main.busy && main.picture !== undefined && (!needsOriginal || !original.busy)}
    >
      {/* biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: arrow keys point at its pixels */}
      <canvas
        ref={canvasRef}
        tabIndex={0}
        role="application"
        aria-roledescription="picture"
        aria-label={first ? artworkTag(artwork, recipe, needsOriginal ? plain : view) : printed}
        onKeyDown={keys.onKeyDown}
        onBlur={keys.leave}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerLeave={() => onPoint(undefined)}
      />
      {placing && !failed && (
        <>
          <span className="tag" style={{ left: Math.max(placing.x, 12), top: tagTop }}>
            {first ? artworkTag(artwork, recipe, needsOriginal ? plain : view) : printed}
            {!first && (viewState.map === "difference" || viewState.map === "coverage") && (
              <Legend viewState={viewState} inks={condition.inks.length} />
            )}
          </span>
          {((wiping && cut < stage.width - 150) || paired) && (
            <span
              className="tag"
              style={{ left: paired ? right + Math.max(placing.x, 12) : Math.max(cut + 8, 12), top: tagTop }}
            >
              {printed}
            </span>
          )}
        </>
      )}
      {placing && (
        <RegionLayer
          artwork={artwork}
          recipe={recipe}
          viewState={viewState}
          placing={placing}
          drawing={drawing}
          shift={right}
        />
      )}
      {wiping && placing && (
        <WipeLine
          cut={cut}
          placing={placing}
          artwork={artwork}
          stage={stageRef}
          wipeAt={wipeAt}
          onWipe={setWipeAt}
        />
      )}
      {placing &&
        pins.map((pin, index) => (
          <span
            key={pin.id}
            className="pin"
            style={{
              left: right + placing.x + (pin.x + 0.5) * placing.zoom,
              top: placing.y + (pin.y + 0.5) * placing.zoom,
            }}
          >
            {index + 1}
          </span>
        ))}
      {keys.cross && <i className="cross" style={{ left: right + keys.cross[0], top: keys.cross[1] }} />}
      <span className="state" role="status">
        {main.picture?.sketch
          ? "sketch; the exact picture is on its way"
          : main.busy || original.busy
            ? "computing"
            : ""}
      </span>
      {failed && <p className="notice message">{failed}</p>}
      <StageTools
        box={toolsRef}
        viewState={viewState}
        inks={condition.inks}
        zoomText={placing ? percent(placing.zoom * 100) : ""}
        fitted={at.fitted}
        onZoom={(direction) => at.step(direction)}
        onFit={() => (at.fitted ? at.zoomTo(1) : at.fit())}
      />
    </div>
  );
}

/** The scale of a map, light to dark, with its figures. */
function Legend({ viewState, inks }: { viewState: ViewState; inks: number }) {
  const top = viewState.map === "difference" ? 15 : inks * 100;
  return (
    <span className="legend">
      {[0, 0.25, 0.5, 0.75, 1].map((share) => (
        <span
          key={share}
          style={{
            background: `rgb(${Array(3)
              .fill(Math.round(255 - 240 * share))
              .join()})`,
          }}
        >
          <b style={{ color: share > 0.4 ? "#fff" : "#141414" }}>{Math.round(top * share * 10) / 10}</b>
        </span>
      ))}
    </span>
  );
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
