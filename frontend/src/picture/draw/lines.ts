/** The lines of a picture as they are dressed; what was not measured keeps its pattern in any dress. */
import {
  adjustedPoints,
  beforePoints,
  curvePoints as partsOf,
  dashedPoints,
  provisionalPoints,
  solidPoints,
  type Point,
} from "../../figure/strokes";
import type { Curve, Series } from "../../figure/types";
import type { ValueAxis } from "./axes";
import { drawBars } from "./bars";
import { colourOf } from "./colour";
import { drawArea, filled, stackedBand } from "./fills";
import { node, type Node } from "../../figure/nodes";
import { pathOf } from "../../figure/runs";
import { drawFlags, drawMarks, drawRule, drawSpan } from "./placed";
import { curvePoints, drawValues, seriesPoints } from "./points";
import { axisOf, isSeries, keyOf, type Dressed, type Line, type Panel, type Sheet } from "./sheet";
import { dashOf, dots, stroke } from "./strokes";

/** All of one line, in a group that says which. */
export function drawLine(one: Line, panel: Panel, sheet: Sheet): Node {
  const drawn = childrenOf(one, panel, sheet);
  const rim = one.look.halo ? drawn.flatMap((each) => rimOf(each, sheet)) : [];
  return node("g", { "data-line": keyOf(one) }, [...rim, ...drawn]);
}

const RIM = 4; // pixels that a halo is wider than its line

/** A stroke in the colour of the ground under a stroke, so that what it crosses stands back. */
function rimOf(each: Node, sheet: Sheet): Node[] {
  const { d, stroke: ink, "stroke-width": width } = each.attributes;
  if (each.tag !== "path" || !d || !ink || typeof width !== "number" || each.attributes.fill !== "none")
    return [];
  return stroke(String(d), { stroke: sheet.ground, "stroke-width": width + RIM });
}

function childrenOf(one: Line, panel: Panel, sheet: Sheet): Node[] {
  const axis = axisOf(one, panel);
  const ink = colourOf(one.look.colour, sheet.page);
  if (isSeries(one)) return drawSeries(one, panel, sheet, axis, ink);
  switch (one.shape) {
    case "curve":
      return drawCurve(one, panel, sheet, axis, ink);
    case "area":
      return drawArea(one, sheet, axis, ink);
    case "bars":
      return drawBars(one, sheet, axis, ink);
    case "rule":
      return drawRule(one, panel, sheet, axis, ink);
    case "span":
      return drawSpan(one, panel, sheet);
    case "points":
      return drawMarks(one, sheet, axis);
    case "flags":
      return drawFlags(one, panel, sheet);
  }
}

function drawSeries(one: Dressed<Series>, panel: Panel, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const { figure } = sheet;
  const { look } = one;
  const stacked = figure.arrangement === "stacked";
  const line = stacked ? onTop(one) : one;
  const shape = figure.shape;
  const drawn: Node[] = [];
  if (stacked) drawn.push(...stackedBand(one, sheet, axis, ink));
  else if (look.drawn === "bars") return drawBars(one, sheet, axis, ink);
  else if (look.drawn === "area") drawn.push(...filled(one, panel, sheet, axis, ink));
  const path = (points: Point[]) => pathOf(dots(points, sheet, axis), shape);
  if (figure.view !== "after")
    drawn.push(
      ...stroke(path(beforePoints(line)), {
        stroke: sheet.palette.muted,
        "stroke-width": 1,
        "stroke-opacity": 0.6,
      }),
    );
  if (look.drawn !== "points" && figure.view !== "before") {
    const width = look.weight;
    const usual = { stroke: ink, "stroke-width": width };
    drawn.push(
      ...stroke(path(solidPoints(line)), { ...usual, "stroke-dasharray": dashOf(look.dash, width) }),
      ...stroke(path(dashedPoints(line)), {
        ...usual,
        "stroke-width": Math.max(1.2, width * 0.8),
        "stroke-dasharray": "4 3",
        "stroke-linecap": "butt",
      }),
      ...stroke(path(adjustedPoints(line)), {
        ...usual,
        "stroke-dasharray": "9 2",
        "stroke-linecap": "butt",
      }),
      ...stroke(path(provisionalPoints(line)), {
        stroke: sheet.palette.wheat,
        "stroke-width": Math.max(3.2, width * 1.6),
        "stroke-dasharray": "2 2",
        "stroke-linecap": "butt",
      }),
      ...stroke(path(provisionalPoints(line)), { ...usual, "stroke-width": 0.8, "stroke-opacity": 0.7 }),
    );
  }
  return [...drawn, ...seriesPoints(line, sheet, axis, ink), ...drawValues(line, panel, sheet, axis, ink)];
}

/** A stacked series is drawn at its upper edge. */
function onTop(one: Dressed<Series>): Dressed<Series> {
  const c = [...one.c].map((code, n) => (one.top[n] === null || one.unsure[n] ? "o" : code)).join("");
  return { ...one, v: one.top, c };
}

function drawCurve(one: Dressed<Curve>, panel: Panel, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const { look } = one;
  if (look.drawn === "bars") return drawBars(one, sheet, axis, ink);
  const under = look.drawn === "area" ? filled(one, panel, sheet, axis, ink) : [];
  const path = (points: Point[]) => pathOf(dots(points, sheet, axis), "straight");
  const width = look.weight;
  const usual = { stroke: ink, "stroke-width": width };
  const points: Point[] = one.t.map((t, n) => [t, one.v[n] ?? null]);
  const projected = one.rests !== "measured";
  const strokes =
    look.drawn === "points"
      ? []
      : projected
        ? stroke(path(points), { ...usual, "stroke-dasharray": "6 4", "stroke-linecap": "butt" })
        : [
            ...stroke(path(partsOf(one, "whole")), {
              ...usual,
              "stroke-dasharray": dashOf(look.dash, width),
            }),
            ...stroke(path(partsOf(one, "pale")), { ...usual, "stroke-opacity": 0.45 }),
            ...stroke(path(partsOf(one, "faded")), {
              ...usual,
              "stroke-width": Math.min(width, 2.2),
              "stroke-dasharray": "3 3",
              "stroke-linecap": "butt",
              "stroke-opacity": 0.6,
            }),
          ];
  return [
    ...under,
    ...strokes,
    ...curvePoints(one, sheet, axis, ink),
    ...drawValues(one, panel, sheet, axis, ink),
  ];
}
