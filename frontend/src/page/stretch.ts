/** A figure within a stretch of time. Pure. */
import type { Figure } from "../figure/types";

export interface Stretch {
  start: number;
  end: number;
}

/** The figure as it is drawn in a stretch: what lies beyond the ends of a scale is counted there. */
export function shownIn(figure: Figure, { start, end }: Stretch): Figure {
  if (!figure.time) return figure;
  const scales = figure.scales.map((scale, n) => {
    const side = n ? "right" : "left";
    const curves = figure.shapes.filter((shape) => shape.shape === "curve");
    const values = [...figure.series, ...curves]
      .filter((line) => line.look?.side === side)
      .flatMap((line) =>
        line.v.filter((_, k) => (line.t[k] ?? start - 1) >= start && (line.t[k] ?? 0) <= end),
      );
    const beyond = (is: (value: number) => boolean) => values.filter((v) => v !== null && is(v)).length;
    const { low, high } = scale;
    return {
      ...scale,
      below: low === null ? 0 : beyond((v) => v < low),
      above: high === null ? 0 : beyond((v) => v > high),
    };
  });
  return { ...figure, scales, time: { ...figure.time, start, end } };
}
