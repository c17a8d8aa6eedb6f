/** Strokes and marks of a panel, from points in data units to nodes in pixels. */
import type { Panel } from "./frame";
import { mark } from "./mark";
import type { Node } from "./nodes";
import { dotsOn, type Plane } from "./plane";
import type { Point } from "./strokes";

/** A node and how far to the front it stands. */
export interface Drawn {
  z: number;
  node: Node;
}

/** Nodes at one depth. */
export function at(z: number, nodes: Node[]): Drawn[] {
  return nodes.map((node) => ({ z, node }));
}

export function planeOf({ time, value }: Panel): Plane {
  const [start, end] = time.domain;
  const holds = (v: number) => value.kind !== "log" || v > 0;
  return { start, end, toX: time.toPixel, toY: value.toPixel, holds };
}

interface MarkStyle {
  shape: "circle" | "diamond" | "triangle";
  size: number;
  fill: string;
  edge: string;
}

/** A mark at each point within the window. */
export function marks(points: Point[], panel: Panel, { shape, size, fill, edge }: MarkStyle): Drawn[] {
  const [start, end] = panel.time.domain;
  const inside = points.filter(([t]) => t >= start && t <= end);
  const dots = dotsOn(inside, planeOf(panel)).filter((dot) => dot !== undefined);
  return at(
    7,
    dots.map((dot) => mark(shape, dot, size, fill, edge)),
  );
}

/** The strokes of a dress, by name; one that is not named is unbroken. */
export const DASHES: Record<string, number[]> = {
  dashed: [7, 4],
  dotted: [1.2, 3],
  "dash-dot": [9, 3, 1.5, 3],
};

/** The stroke that a dress asks for, as SVG has it; unbroken where it asks for none. */
export function dashOf(look: { dash: string }): string | undefined {
  return DASHES[look.dash]?.join(" ");
}
