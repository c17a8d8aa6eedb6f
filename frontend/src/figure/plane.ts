/** Where numbers stand in pixels: of a panel of the bench, or of an axis of a picture. */
import type { Dot } from "./runs";
import { lowerBound } from "./scale";
import type { Point } from "./strokes";

export interface Plane {
  /** The window of time. */
  start: number;
  end: number;
  toX: (at: number) => number;
  toY: (value: number) => number;
  /** Whether a value has a place on it. */
  holds: (value: number) => boolean;
}

/** In pixels, one point beyond each end of the window, so that a line runs to the edge; undefined where there is no number, or
 * no place for it. */
export function dotsOn(points: Point[], { start, end, toX, toY, holds }: Plane): (Dot | undefined)[] {
  const times = points.map(([t]) => t);
  const first = Math.max(0, lowerBound(times, start) - 1);
  const last = Math.min(points.length, lowerBound(times, end + 1) + 1);
  return points
    .slice(first, last)
    .map(([t, v]): Dot | undefined => (v === null || !holds(v) ? undefined : [toX(t), toY(v)]));
}
