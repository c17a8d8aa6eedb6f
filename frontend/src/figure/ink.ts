/** Strokes and marks of a panel, from points in data units to nodes in pixels. */
import type { Panel } from "./frame";
import { node, type Node } from "./nodes";
import { dotsOn, type Plane } from "./plane";
import type { Dot } from "./runs";
import type { Point } from "./strokes";

/** A node and how far to the front it stands. */
export interface Drawn {
  z: number;
  node: Node;
}

/** Nodes at one depth. */
export function at(z: number, nodes: Node[]): Drawn[] {
  return nodes.map((one) => ({ z, node: one }));
}

export function planeOf({ time, value }: Panel): Plane {
  const [start, end] = time.domain;
  const holds = (v: number) => value.kind !== "log" || v > 0;
  return { start, end, toX: time.toPixel, toY: value.toPixel, holds };
}

export interface Mark {
  symbol: "circle" | "diamond" | "triangle";
  size: number;
  fill: string;
  edge: string;
}

/** A mark at each point within the window. */
export function marks(points: Point[], panel: Panel, look: Mark): Drawn[] {
  const [start, end] = panel.time.domain;
  const inside = points.filter(([t]) => t >= start && t <= end);
  const ink = { fill: look.fill, stroke: look.edge, "stroke-width": 1.4 };
  return dotsOn(inside, planeOf(panel)).flatMap((dot) =>
    dot ? [{ z: 7, node: symbolAt(dot, look.symbol, look.size / 2, ink) }] : [],
  );
}

function symbolAt([x, y]: Dot, symbol: Mark["symbol"], r: number, ink: Node["attributes"]): Node {
  if (symbol === "circle") return node("circle", { cx: x, cy: y, r, ...ink });
  const corners =
    symbol === "diamond"
      ? [
          [x, y - r],
          [x + r, y],
          [x, y + r],
          [x - r, y],
        ]
      : [
          [x, y - r],
          [x + r, y + r],
          [x - r, y + r],
        ];
  return node("path", { d: `M${corners.map((at) => at.join(",")).join("L")}Z`, ...ink });
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
