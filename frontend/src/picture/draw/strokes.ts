/** Points in pixels, and strokes through them. */
import { DASHES } from "../../figure/ink";
import { lowerBound } from "../../figure/scale";
import type { Point } from "../../figure/strokes";
import type { ValueAxis } from "./axes";
import { node, type Node } from "../../figure/nodes";
import type { Dot } from "../../figure/runs";
import type { Sheet } from "./sheet";

/** In pixels; undefined where there is no number, or no place for it. */
export function dots(points: Point[], sheet: Sheet, axis: ValueAxis): (Dot | undefined)[] {
  const { start, end } = sheet.time;
  const times = points.map(([t]) => t);
  // one point beyond each end, so that a line runs to the edge
  const first = Math.max(0, lowerBound(times, start) - 1);
  const last = Math.min(points.length, lowerBound(times, end + 1) + 1);
  return points
    .slice(first, last)
    .map(([t, v]): Dot | undefined =>
      v === null || !axis.holds(v) ? undefined : [sheet.toX(t), axis.toY(v)],
    );
}

export function stroke(d: string, attributes: Node["attributes"]): Node[] {
  return d
    ? [
        node("path", {
          d,
          fill: "none",
          "stroke-linejoin": "round",
          "stroke-linecap": "round",
          ...attributes,
        }),
      ]
    : [];
}

/** A dash as it is written; longer on a thicker line where a weight is given. */
export function dashOf(name: string, weight = 0): string | undefined {
  const by = Math.max(1, Math.sqrt(weight / 1.4));
  return DASHES[name]?.map((part) => Math.round(part * by * 10) / 10).join(" ");
}
