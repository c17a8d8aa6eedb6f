/** Paths through points in pixels: straight, in steps, or as a curve that never overshoots. */
import {
  area,
  curveLinear,
  curveMonotoneX,
  curveStep,
  curveStepAfter,
  curveStepBefore,
  line,
  type CurveFactory,
} from "d3-shape";
import { tidy } from "./nodes";

export type Dot = [number, number];
/** A dot of a band: its place, and its lower and upper edge. */
export type Between = [number, number, number];

const DIGITS = 2;
const CURVES: Record<string, CurveFactory> = {
  held: curveStepAfter,
  early: curveStepBefore,
  mid: curveStep,
  curve: curveMonotoneX,
};

/** Runs of dots between gaps. */
function runsOf<T>(dots: (T | undefined)[]): T[][] {
  const runs: T[][] = [[]];
  for (const dot of dots) {
    if (dot) runs.at(-1)?.push(dot);
    else if (runs.at(-1)?.length) runs.push([]);
  }
  // one dot alone makes no stroke
  return runs.filter((run) => run.length > 1);
}

/** The data of a stroke through dots, which stops at every gap. shape: how it runs from one to the next. */
export function pathOf(dots: (Dot | undefined)[], shape: string): string {
  const along = line<Dot>()
    .curve(CURVES[shape] ?? curveLinear)
    .digits(DIGITS);
  return runsOf(dots)
    .map((run) => along(run) ?? "")
    .join("");
}

/** The data of a straight stroke through dots. */
export function strokeThrough(dots: Iterable<Dot | undefined>): string {
  return pathOf([...dots], "straight");
}

/** The data of polygons between two edges, none of which closes a gap. */
export function bandOf(dots: (Between | undefined)[], shape: string): string {
  const between = area<Between>()
    .x((dot) => dot[0])
    .y0((dot) => dot[1])
    .y1((dot) => dot[2])
    .curve(CURVES[shape] ?? curveLinear)
    .digits(DIGITS);
  return runsOf(dots)
    .map((run) => between(run) ?? "")
    .join("");
}

export function straight(run: Dot[]): string {
  return run.map(([x, y], n) => `${n ? "L" : "M"}${tidy(x)},${tidy(y)}`).join("");
}
