/// <reference types="vite/client" />
import { expect, test } from "vitest";

/** Every module by its path below `src`, with its text. */
const TEXTS: Record<string, string> = Object.fromEntries(
  Object.entries(
    import.meta.glob<string>("./**/*.{ts,tsx}", { query: "?raw", import: "default", eager: true }),
  ).map(([path, text]) => [path.slice(2), text]),
);

/** The module that an import means. */
function found(from: string, what: string): string | undefined {
  const parts = from.split("/").slice(0, -1);
  for (const part of what.split("/")) {
    if (part === "..") parts.pop();
    else if (part !== ".") parts.push(part);
  }
  const base = parts.join("/");
  return [base, `${base}.ts`, `${base}.tsx`].find((path) => path in TEXTS);
}

const imports = new Map(
  Object.entries(TEXTS).map(([path, text]) => {
    const said = [...text.matchAll(/(?:from\s+|import\()"(\.[^"]+)"/g)];
    return [path, said.map((match) => found(path, match[1] ?? "")).filter((each) => each !== undefined)];
  }),
);

const layer = (path: string) => path.split("/")[0] ?? "";
const ORDER = ["api", "shared", "guide", "rooms", "app", "main.tsx"];

test("each layer imports only what stands above it: api, shared, guide, rooms, app", () => {
  const upward = [...imports].flatMap(([path, others]) =>
    others
      .filter((other) => ORDER.indexOf(layer(other)) > ORDER.indexOf(layer(path)))
      .map((other) => `${path} imports ${other}`),
  );
  expect(imports.size).toBeGreaterThan(80);
  expect(upward.filter((line) => !line.startsWith("layers.test"))).toEqual([]);
});

test("no module imports itself in a circle, nor do two rooms each other", () => {
  const room = (path: string) => path.split("/").slice(0, 2).join("/");
  const between = new Map<string, string[]>();
  for (const [path, others] of imports)
    for (const other of others)
      if (layer(path) === "rooms" && layer(other) === "rooms" && room(path) !== room(other))
        between.set(room(path), [...(between.get(room(path)) ?? []), room(other)]);
  for (const graph of [imports, between]) {
    const done = new Set<string>();
    const walk = (at: string, way: string[]): string[] => {
      if (way.includes(at)) return [...way, at];
      if (done.has(at)) return [];
      for (const next of graph.get(at) ?? []) {
        const circle = walk(next, [...way, at]);
        if (circle.length > 0) return circle;
      }
      done.add(at);
      return [];
    };
    for (const start of graph.keys()) expect(walk(start, [])).toEqual([]);
  }
});
