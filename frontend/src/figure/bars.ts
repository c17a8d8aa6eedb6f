/** Bars from zero, hatched where they are not measured, on the bench and in pictures alike. */
import { hatchOf } from "./hatch";
import { node, type Node } from "./nodes";
import type { Plane } from "./plane";

const SHARE = 0.72; // of the room between two periods

interface BarStyle {
  ink: string;
  strength: number;
  widest: number;
  /** Which of several that stand beside each other, of how many. */
  place?: [number, number];
  /** The ink of the bar of a point that is hatched; undefined for one that is measured. */
  hatch: (n: number) => string | undefined;
}

/** A bar for each value within the window. foot: the value they stand on. */
export function barsFrom(
  foot: number,
  t: number[],
  v: readonly (number | null | undefined)[],
  plane: Plane,
  { ink, strength, widest, place = [0, 1], hatch }: BarStyle,
): Node[] {
  const xs = t.map(plane.toX);
  const steps = xs.slice(1).map((x, n) => x - (xs[n] ?? x));
  const step = Math.min(widest / SHARE, ...steps.filter((width) => width > 0));
  const [mine, beside] = place;
  const width = Math.max(0.6, (step * SHARE) / beside);
  const floor = plane.toY(foot);
  return t.flatMap((at, n) => {
    const value = v[n];
    if (at < plane.start || at > plane.end || typeof value !== "number" || !plane.holds(value)) return [];
    const y = plane.toY(value);
    const hatched = hatch(n);
    return [
      node("rect", {
        x: (xs[n] ?? 0) + (mine - beside / 2) * width,
        y: Math.min(y, floor),
        width,
        height: Math.max(0.4, Math.abs(floor - y)),
        ...(hatched === undefined
          ? { fill: ink, "fill-opacity": strength }
          : { fill: hatchOf(hatched), stroke: ink, "stroke-width": 0.7, "stroke-opacity": 0.6 }),
      }),
    ];
  });
}
