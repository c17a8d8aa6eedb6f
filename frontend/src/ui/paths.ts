/** Paths of a small chart. */
import { strokeThrough, type Dot } from "../figure/runs";
import type { Scale } from "../figure/scale";

export type Values = (number | null)[];

/** A line through values, open where there is none. */
export function linePath(t: number[], v: Values, time: Scale, value: Scale): string {
  return strokeThrough(
    t.map((at, n): Dot | undefined => {
      const amount = v[n];
      return amount === null || amount === undefined ? undefined : [time.toPixel(at), value.toPixel(amount)];
    }),
  );
}

/** What lies between two edges. */
export function areaPath(t: number[], [lower, upper]: Values[], time: Scale, value: Scale): string {
  const dots = (edge: Values | undefined) =>
    t.flatMap((at, n) => {
      const amount = edge?.[n];
      return amount === null || amount === undefined
        ? []
        : [`${time.toPixel(at).toFixed(1)},${value.toPixel(amount).toFixed(1)}`];
    });
  const outline = [...dots(upper), ...dots(lower).reverse()];
  return outline.length ? `M${outline.join("L")}Z` : "";
}
