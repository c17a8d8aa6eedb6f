/** Strokes and marks of a panel, from points in data units to nodes in pixels. */
import type { Panel } from "./frame";
import { node, type Node } from "./nodes";
import { pathOf, type Dot } from "./runs";
import { lowerBound } from "./scale";
import type { Point } from "./strokes";

/** A node and how far to the front it stands. */
export interface Drawn {
  z: number;
  node: Node;
}

export interface Stroke {
  color: string;
  width: number;
  opacity?: number;
  /** Whether its corners need not be round: there are more of them than pixels. */
  thicket?: boolean;
  /** Lengths of its dashes and gaps; unbroken where there are none. */
  type?: number[];
}

/** In pixels, one point beyond each end of the window, so that a line runs to the edge; undefined where there is no number, or
 * no place for it. */
export function dotsOf(points: Point[], { time, value }: Panel): (Dot | undefined)[] {
  const [start, end] = time.domain;
  const times = points.map(([t]) => t);
  const first = Math.max(0, lowerBound(times, start) - 1);
  const last = Math.min(points.length, lowerBound(times, end + 1) + 1);
  return points.slice(first, last).map(([t, v]): Dot | undefined => {
    if (v === null || (value.kind === "log" && v <= 0)) return undefined;
    return [time.toPixel(t), value.toPixel(v)];
  });
}

/** A stroke through points; nothing where no two of them are neighbours. shape: how it runs from one to the next. */
export function stroke(points: Point[], panel: Panel, style: Stroke, z: number, shape = "straight"): Drawn[] {
  const d = pathOf(dotsOf(points, panel), shape);
  if (!d) return [];
  const attributes = {
    d,
    fill: "none",
    stroke: style.color,
    "stroke-width": style.width,
    "stroke-opacity": style.opacity,
    "stroke-dasharray": style.type?.join(" "),
    "stroke-linejoin": style.thicket ? "bevel" : "round",
  };
  return [{ z, node: node("path", attributes) }];
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
  return dotsOf(inside, panel).flatMap((dot) =>
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

/** The stroke that a dress asks for; unbroken where it asks for none. */
export function dashOf(look: { dash: string }): { type?: number[] } {
  const type = DASHES[look.dash];
  return type ? { type } : {};
}
