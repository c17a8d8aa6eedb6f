/** Marks at points: a disc, or a shape that says what a point is. */
import { node, type Node } from "./nodes";
import { straight, type Dot } from "./runs";

const CORNERS: Record<string, Dot[]> = {
  rect: [
    [-0.9, -0.9],
    [0.9, -0.9],
    [0.9, 0.9],
    [-0.9, 0.9],
  ],
  diamond: [
    [0, -1.25],
    [1.25, 0],
    [0, 1.25],
    [-1.25, 0],
  ],
  triangle: [
    [0, -1.25],
    [1.15, 0.85],
    [-1.15, 0.85],
  ],
};

/** shape: a circle, or one that has corners. size: its radius in pixels. */
export function mark(shape: string, [x, y]: Dot, size: number, fill: string, edge: string): Node {
  const look = { fill, stroke: edge, "stroke-width": 1.3 };
  if (shape === "circle") return node("circle", { cx: x, cy: y, r: size, ...look });
  const run = (CORNERS[shape] ?? []).map(([a, b]): Dot => [x + a * size, y + b * size]);
  return node("path", { d: `${straight(run)}Z`, ...look });
}

/** A ring round a point that is picked out. */
export function ring([x, y]: Dot, edge: string): Node {
  return node("circle", { cx: x, cy: y, r: RING, fill: "none", stroke: edge, "stroke-width": 1.4 });
}

export const RING = 4.8; // radius
