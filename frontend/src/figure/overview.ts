/** All of the time there is, in little. Pure. */
import { strokeThrough, type Dot } from "./runs";
import { linearScale, timeScale } from "./scale";
import { shapesOf, type Curve, type Figure, type Series } from "./types";

export const OVERVIEW_HEIGHT = 34;

/** What of the shown window is held: all of it, or one of its ends. */
export type Grip = "body" | "from" | "to";

/** The window after what is held moved by so much; it stays within all there is, and no smaller than may be. */
export function movedWindow(
  grip: Grip,
  by: number,
  [from, to]: [number, number],
  [first, last]: [number, number],
  smallest: number,
): [number, number] {
  if (grip === "from") return [Math.min(Math.max(first, from + by), to - smallest), to];
  if (grip === "to") return [from, Math.max(Math.min(last, to + by), from + smallest)];
  const move = Math.max(first - from, Math.min(last - to, by));
  return [from + move, to + move];
}

/** Series and projections over all time. */
export function overviewPaths(
  figure: Figure,
  first: number,
  last: number,
  width: number,
): { of: Series | Curve; path: string }[] {
  const projected = shapesOf(figure, "curve").filter((curve) => curve.rests === "projected");
  const drawn: (Series | Curve)[] = [...figure.series, ...projected];
  let low = Infinity;
  let high = -Infinity;
  for (const value of drawn.flatMap((series) => series.v)) {
    if (value === null) continue;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  const time = timeScale(first, last, [0, width]);
  const height = linearScale({ min: low, max: high > low ? high : low + 1, step: high - low || 1 }, [
    OVERVIEW_HEIGHT - 3,
    3,
  ]);
  return drawn.map((of) => {
    const dots: (Dot | undefined)[] = [];
    // about one point a pixel is all an overview can show
    const stride = Math.max(1, Math.floor(of.t.length / width));
    for (let n = 0; n < of.t.length; n += stride) {
      const v = of.v[n];
      const none = v === null || v === undefined || ("c" in of && of.c[n] === "s");
      dots.push(none ? undefined : [time.toPixel(of.t[n] ?? 0), height.toPixel(v)]);
    }
    return { of, path: strokeThrough(dots) };
  });
}
