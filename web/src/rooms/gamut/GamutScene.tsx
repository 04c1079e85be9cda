import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  DoubleSide,
  Plane,
  Spherical,
  Vector3,
  type WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Cloud, Gamut } from "../../api/client";
import { onSurround } from "../../shared/onSurround";
import { usePreference } from "../../shared/preferences";

export type Look = "wire" | "solid";

interface Props {
  hulls: { gamut: Gamut; look: Look }[];
  cloud: Cloud | undefined;
  arrows: boolean;
  /** Everything above this L* is cut away. */
  slice: number;
  /** Of a color, in hundreds of Lab units: a few colors are drawn larger than a cloud. */
  pointSize?: number;
}

/** a* to the right, L* up, b* away: a hundred units of Lab are one of the scene. */
const place = (lab: readonly number[]): [number, number, number] => [
  (lab[1] ?? 0) / 100,
  ((lab[0] ?? 0) - 50) / 100,
  -(lab[2] ?? 0) / 100,
];

/** Hulls, the artwork's colors and arrows in Lab, turned by hand. */
export function GamutScene({ hulls, cloud, arrows, slice, pointSize = 0.017 }: Props) {
  const plane = useMemo(() => new Plane(new Vector3(0, -1, 0), 0), []);
  plane.constant = (slice - 50) / 100 + 0.001;
  const ink = onSurround(usePreference("surround", 50)[0]);
  return (
    <Canvas
      // Drawn when something has changed, so that a view at rest costs nothing.
      frameloop="demand"
      camera={{ position: [1.8, 0.95, 2.25], fov: 39 }}
      gl={{ preserveDrawingBuffer: true, antialias: true }}
      onCreated={({ gl }: { gl: WebGLRenderer }) => {
        gl.localClippingEnabled = true;
      }}
      flat
      linear
    >
      <Turning />
      <Cutting slice={slice} />
      <Axes ink={ink} />
      {NAMES.map(([name, lab]) => (
        <Name key={name} name={name} at={place(lab)} ink={ink} />
      ))}
      {hulls.map(({ gamut, look }, index) => (
        <Hull key={gamut.key} gamut={gamut} look={look} index={index} plane={plane} ink={ink} />
      ))}
      {cloud && <Points cloud={cloud} plane={plane} size={pointSize} />}
      {cloud && arrows && <Arrows cloud={cloud} ink={ink} plane={plane} />}
    </Canvas>
  );
}

const TURN_RAD = Math.PI / 24;
const NEARER = 0.9;
/** By key: around L* and up or down in radians, and what the distance is multiplied by. */
const TURNS: Record<string, [around: number, up: number, distance: number]> = {
  ArrowLeft: [-TURN_RAD, 0, 1],
  ArrowRight: [TURN_RAD, 0, 1],
  ArrowUp: [0, -TURN_RAD, 1],
  ArrowDown: [0, TURN_RAD, 1],
  "+": [0, 0, NEARER],
  "-": [0, 0, 1 / NEARER],
};

/** Orbit, pan and zoom, by hand and by key; drawn again while it moves. */
function Turning() {
  const { camera, gl, invalidate } = useThree();
  useEffect(() => {
    const made = new OrbitControls(camera, gl.domElement);
    made.addEventListener("change", () => invalidate());
    const view = gl.domElement;
    view.tabIndex = 0;
    view.setAttribute("role", "application");
    view.setAttribute(
      "aria-label",
      "Colors in Lab. Arrow keys turn them, plus and minus bring them nearer and farther, 0 puts them back.",
    );
    made.saveState();
    const turned = (event: KeyboardEvent) => {
      const turn = TURNS[event.key];
      if (event.ctrlKey || event.metaKey || event.altKey || (!turn && event.key !== "0")) return;
      event.preventDefault();
      if (!turn) return made.reset();
      const [around, up, distance] = turn;
      const from = new Spherical().setFromVector3(camera.position.clone().sub(made.target));
      from.theta += around;
      from.phi += up;
      from.radius *= distance;
      from.makeSafe();
      camera.position.setFromSpherical(from).add(made.target);
      made.update();
      invalidate();
    };
    view.addEventListener("keydown", turned);
    return () => {
      view.removeEventListener("keydown", turned);
      made.dispose();
    };
  }, [camera, gl, invalidate]);
  return null;
}

/** A moved cut changes a plane that the hulls share, which nothing else tells the view of. */
function Cutting({ slice }: { slice: number }) {
  const invalidate = useThree((state) => state.invalidate);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn again for each slice
  useEffect(() => invalidate(), [invalidate, slice]);
  return null;
}

function Axes({ ink }: { ink: string }) {
  const geometry = useMemo(() => {
    const lines: number[] = [];
    const add = (from: number[], to: number[]) => lines.push(...place(from), ...place(to));
    add([0, 0, 0], [100, 0, 0]);
    for (const level of [0, 50, 100]) {
      add([level, -100, 0], [level, 100, 0]);
      add([level, 0, -100], [level, 0, 100]);
    }
    return new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(lines), 3));
  }, []);
  return (
    <lineSegments geometry={geometry}>
      <lineBasicMaterial color={ink} transparent opacity={0.45} />
    </lineSegments>
  );
}

/** Where each axis ends, and what it is called there. */
const NAMES: [string, number[]][] = [
  ["L* 100", [108, 0, 0]],
  ["L* 0", [-8, 0, 0]],
  ["+a*", [50, 106, 0]],
  ["−a*", [50, -106, 0]],
  ["+b*", [50, 0, 106]],
  ["−b*", [50, 0, -106]],
];

/** A few letters that always face the eye. */
function Name({ name, at, ink }: { name: string; at: [number, number, number]; ink: string }) {
  const texture = useMemo(() => {
    const canvas = document.createElement("canvas");
    canvas.width = 128;
    canvas.height = 48;
    const draw = canvas.getContext("2d");
    if (draw) {
      draw.font = "600 30px 'Public Sans Variable', sans-serif";
      draw.textAlign = "center";
      draw.fillStyle = ink;
      draw.fillText(name, 64, 34);
    }
    return new CanvasTexture(canvas);
  }, [name, ink]);
  return (
    <sprite position={at} scale={[0.18, 0.0675, 1]}>
      <spriteMaterial map={texture} transparent depthTest={false} />
    </sprite>
  );
}

function Hull({
  gamut,
  look,
  index,
  plane,
  ink,
}: {
  gamut: Gamut;
  look: Look;
  index: number;
  plane: Plane;
  ink: string;
}) {
  const { solid, wires } = useMemo(() => {
    const made = new BufferGeometry();
    made.setAttribute("position", new BufferAttribute(new Float32Array(gamut.points.flatMap(place)), 3));
    made.setAttribute("color", new BufferAttribute(new Float32Array(gamut.rgb.flatMap(channels)), 3));
    made.setIndex(gamut.triangles.flat());
    const wires = new BufferGeometry();
    wires.setAttribute("position", made.getAttribute("position"));
    wires.setIndex(gamut.wires.flat());
    return { solid: made, wires };
  }, [gamut]);
  if (look === "solid")
    return (
      <mesh geometry={solid}>
        <meshBasicMaterial
          vertexColors
          side={DoubleSide}
          clippingPlanes={[plane]}
          transparent
          opacity={0.82}
        />
      </mesh>
    );
  return (
    <lineSegments geometry={wires}>
      <lineBasicMaterial
        color={ink}
        transparent
        opacity={index === 0 ? 0.75 : 0.32}
        clippingPlanes={[plane]}
      />
    </lineSegments>
  );
}

const channels = (code: number) => [
  ((code >> 16) & 255) / 255,
  ((code >> 8) & 255) / 255,
  (code & 255) / 255,
];

function Points({ cloud, plane, size }: { cloud: Cloud; plane: Plane; size: number }) {
  const geometry = useMemo(() => {
    const made = new BufferGeometry();
    made.setAttribute("position", new BufferAttribute(new Float32Array(cloud.lab.flatMap(place)), 3));
    made.setAttribute("color", new BufferAttribute(new Float32Array(cloud.rgb.flatMap(channels)), 3));
    return made;
  }, [cloud]);
  return (
    <points geometry={geometry}>
      <pointsMaterial vertexColors size={size} clippingPlanes={[plane]} />
    </points>
  );
}

function Arrows({ cloud, ink, plane }: { cloud: Cloud; ink: string; plane: Plane }) {
  const geometry = useMemo(() => {
    const lines = cloud.arrows.flatMap((arrow) => [...place(arrow.slice(0, 3)), ...place(arrow.slice(3))]);
    return new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(lines), 3));
  }, [cloud]);
  return (
    <lineSegments geometry={geometry}>
      <lineBasicMaterial color={ink} clippingPlanes={[plane]} />
    </lineSegments>
  );
}
