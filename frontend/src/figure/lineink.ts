/** How lines are inked, on the bench and in pictures alike: what was not measured keeps its pattern in any dress. */
import { hatchOf } from "./hatch";
import { node, type Node } from "./nodes";
import { dotsOn, type Plane } from "./plane";
import { bandOf, pathOf, type Between } from "./runs";
import {
  adjustedPoints,
  beforePoints,
  curvePoints,
  dashedPoints,
  provisionalPoints,
  solidPoints,
  type Point,
} from "./strokes";
import type { Curve, Series } from "./types";

export interface LineStyle {
  ink: string;
  width: number;
  /** Lengths of dashes and gaps, as SVG has them; unbroken where there are none. */
  dash?: string | undefined;
  opacity?: number | undefined;
  /** Whether there are more corners than pixels, so that they need not be round. */
  thicket?: boolean;
}

const CUT = { "stroke-linecap": "butt" };

/** A stroke along the data of a path; nothing where there is none. */
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

/** The strokes of a series after all repairs. wheat: the colour of what is provisional. shape: how a stroke runs from one
 * point to the next. */
export function seriesStrokes(
  line: Series,
  plane: Plane,
  style: LineStyle,
  wheat: string,
  shape: string,
): Node[] {
  const path = (points: Point[]) => pathOf(dotsOn(points, plane), shape);
  const { width } = style;
  const usual = { stroke: style.ink, "stroke-width": width };
  const faint = { "stroke-opacity": style.opacity };
  const join = style.thicket ? { "stroke-linejoin": "bevel", "stroke-linecap": "butt" } : {};
  return [
    ...stroke(path(solidPoints(line)), { ...usual, "stroke-dasharray": style.dash, ...faint, ...join }),
    ...stroke(path(dashedPoints(line)), {
      ...usual,
      "stroke-width": Math.max(1.2, width * 0.8),
      "stroke-dasharray": "4 3",
      ...CUT,
    }),
    ...stroke(path(adjustedPoints(line)), { ...usual, "stroke-dasharray": "9 2", ...CUT, ...faint }),
    // striped like its swatch: short strokes across the way the line runs
    ...stroke(path(provisionalPoints(line)), {
      stroke: wheat,
      "stroke-width": Math.max(3.2, width * 1.6),
      "stroke-dasharray": "2 2",
      ...CUT,
    }),
    ...stroke(path(provisionalPoints(line)), { ...usual, "stroke-width": 0.8, "stroke-opacity": 0.7 }),
  ];
}

/** A series as it was received. */
export function beforeStroke(line: Series, plane: Plane, style: LineStyle, shape: string): Node[] {
  return stroke(pathOf(dotsOn(beforePoints(line), plane), shape), {
    stroke: style.ink,
    "stroke-width": style.width,
    "stroke-opacity": style.opacity,
  });
}

/** The strokes of a curve: dashed where it does not rest on what was measured, fainter where it rests on less. */
export function curveStrokes(curve: Curve, plane: Plane, style: LineStyle): Node[] {
  const path = (points: Point[]) => pathOf(dotsOn(points, plane), "straight");
  const { width } = style;
  const usual = { stroke: style.ink, "stroke-width": width };
  if (curve.rests !== "measured") {
    const points = curve.t.map((t, n): Point => [t, curve.v[n] ?? null]);
    return stroke(path(points), { ...usual, "stroke-dasharray": "6 4", ...CUT });
  }
  return [
    ...stroke(path(curvePoints(curve, "whole")), { ...usual, "stroke-dasharray": style.dash }),
    ...stroke(path(curvePoints(curve, "pale")), { ...usual, "stroke-opacity": 0.45 }),
    ...stroke(path(curvePoints(curve, "faded")), {
      ...usual,
      "stroke-width": Math.min(width, 2.2),
      "stroke-dasharray": "3 3",
      ...CUT,
      "stroke-opacity": 0.6,
    }),
  ];
}

export type Values = readonly (number | null | undefined)[];

/** The data of polygons round the stretches in which both edges have a number; a gap is never closed by one. */
export function outline(
  t: number[],
  lower: Values,
  upper: Values,
  plane: Plane,
  shape: string,
  wanted: (n: number) => boolean = () => true,
): string {
  const edge = (values: Values) =>
    dotsOn(
      t.map((at, n): Point => {
        const both = typeof lower[n] === "number" && typeof upper[n] === "number";
        return [at, both && wanted(n) ? (values[n] ?? null) : null];
      }),
      plane,
    );
  const tops = edge(upper);
  return bandOf(
    edge(lower).map((low, n): Between | undefined => {
      const high = tops[n];
      return low && high ? [low[0], low[1], high[1]] : undefined;
    }),
    shape,
  );
}

export function filled(d: string, ink: string, strength: number): Node[] {
  return d ? [node("path", { d, fill: ink, "fill-opacity": strength })] : [];
}

/** sure: whether it stands for what was tested. */
export function hatched(d: string, ink: string, sure = true): Node[] {
  return d ? [node("path", { d, fill: hatchOf(ink, sure) })] : [];
}

const STACKED = 0.28; // strength of the band of a stacked series

/** A stacked series between its floor and its top; what rests on something that is not there is hatched. */
export function stackedBand(
  line: { t: number[]; floor: Values; top: Values; unsure: boolean[] },
  plane: Plane,
  ink: string,
  shape: string,
): Node[] {
  const { unsure } = line;
  const near = (n: number) => Boolean(unsure[n] || unsure[n - 1] || unsure[n + 1]);
  const part = (wanted: (n: number) => boolean) =>
    outline(line.t, line.floor, line.top, plane, shape, wanted);
  return [
    ...filled(
      part((n) => !unsure[n]),
      ink,
      STACKED,
    ),
    ...(unsure.some(Boolean) ? hatched(part(near), ink) : []),
  ];
}

/** A stacked series as it is drawn at its upper edge: without a stroke where the stack is open or rests on what is not there. */
export function onTop<T extends Series>(line: T): T {
  const c = [...line.c].map((code, n) => (line.top[n] === null || line.unsure[n] ? "o" : code)).join("");
  return { ...line, v: line.top, c };
}
