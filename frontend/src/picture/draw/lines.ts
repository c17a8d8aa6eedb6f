/** The lines of a picture as they are dressed; what was not measured keeps its pattern in any dress. */
import { beforeStroke, curveStrokes, onTop, seriesStrokes, stackedBand, stroke } from "../../figure/lineink";
import type { Curve, Series } from "../../figure/types";
import type { ValueAxis } from "./axes";
import { colourOf } from "./colour";
import { drawArea, fillOf } from "./fills";
import { barsFrom } from "../../figure/bars";
import { leftOut, node, type Node } from "../../figure/nodes";
import { drawFlags, drawPoints, drawRule, drawSpan, type Placed } from "../../figure/placed";
import type { Placing } from "../../figure/placing";
import { curvePoints, drawValues, seriesPoints } from "./points";
import {
  axisOf,
  isSeries,
  keyOf,
  type Dressed,
  type Line,
  type OverTime,
  type Panel,
  type Sheet,
} from "./sheet";
import { boardOf, dashOf, planeOf } from "./strokes";

/** All of one line, in a group that says which. */
export function drawLine(one: Line, panel: Panel, sheet: Sheet, free: Placing): Node {
  const drawn = childrenOf(one, panel, sheet, free);
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

function childrenOf(one: Line, panel: Panel, sheet: Sheet, free: Placing): Node[] {
  const axis = axisOf(one, panel);
  const ink = colourOf(one.look.colour, sheet.page);
  if (isSeries(one)) return drawSeries(one, panel, sheet, axis, ink, free);
  switch (one.shape) {
    case "curve":
      return drawCurve(one, panel, sheet, axis, ink, free);
    case "area":
      return drawArea(one, sheet, axis, ink);
    case "bars":
      return drawBars(one, sheet, axis, ink);
    case "rule": {
      const { weight, dash, name } = one.look;
      const style = { ink, width: weight, dash: dashOf(dash, weight) };
      return put(drawRule(one, name, style, boardOf(panel, sheet, axis), free));
    }
    case "span":
      return put(drawSpan(one, one.look.name, boardOf(panel, sheet, axis), free));
    case "points":
      return put(drawPoints(one, boardOf(panel, sheet, axis), free));
    case "flags":
      return put(drawFlags(one, boardOf(panel, sheet, axis), free));
  }
}

function put({ behind, before, missing }: Placed): Node[] {
  return [...behind, ...before, ...leftOut(missing)];
}

const WIDEST_BAR = 16;
const FULL_BAR = 0.72;

function drawBars(one: OverTime, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const measured = !("rests" in one) || one.rests === "measured";
  const codeAt = (n: number) => ("c" in one ? (one.c[n] ?? "m") : "m");
  const hatch = (n: number) => {
    const code = codeAt(n);
    if (measured && "ma".includes(code)) return undefined;
    return code === "p" ? sheet.palette.wheat : ink;
  };
  // what is set aside has no bar
  const v = one.v.map((value, n) => ("st".includes(codeAt(n)) ? null : value));
  const foot = axis.holds(0) ? Math.max(axis.min, Math.min(0, axis.max)) : axis.min;
  const style = { ink, strength: FULL_BAR, widest: WIDEST_BAR, hatch };
  return barsFrom(foot, one.t, v, planeOf(sheet, axis), style);
}

function drawSeries(
  one: Dressed<Series>,
  panel: Panel,
  sheet: Sheet,
  axis: ValueAxis,
  ink: string,
  free: Placing,
): Node[] {
  const { figure } = sheet;
  const { look } = one;
  const stacked = figure.arrangement === "stacked";
  const line = stacked ? onTop(one) : one;
  const shape = figure.shape;
  const drawn: Node[] = [];
  if (stacked) drawn.push(...stackedBand(one, planeOf(sheet, axis), ink, figure.shape));
  else if (look.drawn === "bars") return drawBars(one, sheet, axis, ink);
  else if (look.drawn === "area") drawn.push(...fillOf(one, panel, sheet, axis, ink));
  const plane = planeOf(sheet, axis);
  if (figure.view !== "after")
    drawn.push(...beforeStroke(line, plane, { ink: sheet.palette.muted, width: 1, opacity: 0.6 }, shape));
  if (look.drawn !== "points" && figure.view !== "before") {
    const style = { ink, width: look.weight, dash: dashOf(look.dash, look.weight) };
    drawn.push(...seriesStrokes(line, plane, style, sheet.palette.wheat, shape));
  }
  return [
    ...drawn,
    ...seriesPoints(line, sheet, axis, ink),
    ...drawValues(line, panel, sheet, axis, ink, free),
  ];
}

function drawCurve(
  one: Dressed<Curve>,
  panel: Panel,
  sheet: Sheet,
  axis: ValueAxis,
  ink: string,
  free: Placing,
): Node[] {
  const { look } = one;
  if (look.drawn === "bars") return drawBars(one, sheet, axis, ink);
  const under = look.drawn === "area" ? fillOf(one, panel, sheet, axis, ink) : [];
  const style = { ink, width: look.weight, dash: dashOf(look.dash, look.weight) };
  const strokes = look.drawn === "points" ? [] : curveStrokes(one, planeOf(sheet, axis), style);
  return [
    ...under,
    ...strokes,
    ...curvePoints(one, sheet, axis, ink),
    ...drawValues(one, panel, sheet, axis, ink, free),
  ];
}
