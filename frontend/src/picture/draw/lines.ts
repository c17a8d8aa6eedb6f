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
export function drawLine(line: Line, panel: Panel, sheet: Sheet, free: Placing): Node {
  const drawn = childrenOf(line, panel, sheet, free);
  const rim = line.look.halo ? drawn.flatMap((each) => rimOf(each, sheet)) : [];
  return node("g", { "data-line": keyOf(line) }, [...rim, ...drawn]);
}

const RIM = 4; // pixels that a halo is wider than its line

/** A stroke in the colour of the ground under a stroke, so that what it crosses stands back. */
function rimOf(each: Node, sheet: Sheet): Node[] {
  const { d, stroke: ink, "stroke-width": width } = each.attributes;
  if (each.tag !== "path" || !d || !ink || typeof width !== "number" || each.attributes.fill !== "none")
    return [];
  return stroke(String(d), { stroke: sheet.ground, "stroke-width": width + RIM });
}

function childrenOf(line: Line, panel: Panel, sheet: Sheet, free: Placing): Node[] {
  const axis = axisOf(line, panel);
  const ink = colourOf(line.look.colour, sheet.page);
  if (isSeries(line)) return drawSeries(line, panel, sheet, axis, ink, free);
  switch (line.shape) {
    case "curve":
      return drawCurve(line, panel, sheet, axis, ink, free);
    case "area":
      return drawArea(line, sheet, axis, ink);
    case "bars":
      return drawBars(line, sheet, axis, ink);
    case "rule": {
      const { weight, dash, name } = line.look;
      const style = { ink, width: weight, dash: dashOf(dash, weight) };
      return put(drawRule(line, name, style, boardOf(panel, sheet, axis), free));
    }
    case "span":
      return put(drawSpan(line, line.look.name, boardOf(panel, sheet, axis), free));
    case "points":
      return put(drawPoints(line, boardOf(panel, sheet, axis), free));
    case "flags":
      return put(drawFlags(line, boardOf(panel, sheet, axis), free));
  }
}

function put({ behind, before, missing }: Placed): Node[] {
  return [...behind, ...before, ...leftOut(missing)];
}

const WIDEST_BAR = 16;
const FULL_BAR = 0.72;

function drawBars(line: OverTime, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const measured = !("rests" in line) || line.rests === "measured";
  const codeAt = (n: number) => ("c" in line ? (line.c[n] ?? "m") : "m");
  const hatch = (n: number) => {
    const code = codeAt(n);
    if (measured && "ma".includes(code)) return undefined;
    return code === "p" ? sheet.palette.wheat : ink;
  };
  // what is set aside has no bar
  const v = line.v.map((value, n) => ("st".includes(codeAt(n)) ? null : value));
  const foot = axis.holds(0) ? Math.max(axis.min, Math.min(0, axis.max)) : axis.min;
  const style = { ink, strength: FULL_BAR, widest: WIDEST_BAR, hatch };
  return barsFrom(foot, line.t, v, planeOf(sheet, axis), style);
}

function drawSeries(
  dressed: Dressed<Series>,
  panel: Panel,
  sheet: Sheet,
  axis: ValueAxis,
  ink: string,
  free: Placing,
): Node[] {
  const { figure } = sheet;
  const { look } = dressed;
  const stacked = figure.arrangement === "stacked";
  const line = stacked ? onTop(dressed) : dressed;
  const shape = figure.shape;
  const drawn: Node[] = [];
  if (stacked) drawn.push(...stackedBand(dressed, planeOf(sheet, axis), ink, figure.shape));
  else if (look.drawn === "bars") return drawBars(dressed, sheet, axis, ink);
  else if (look.drawn === "area") drawn.push(...fillOf(dressed, panel, sheet, axis, ink));
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
  curve: Dressed<Curve>,
  panel: Panel,
  sheet: Sheet,
  axis: ValueAxis,
  ink: string,
  free: Placing,
): Node[] {
  const { look } = curve;
  if (look.drawn === "bars") return drawBars(curve, sheet, axis, ink);
  const under = look.drawn === "area" ? fillOf(curve, panel, sheet, axis, ink) : [];
  const style = { ink, width: look.weight, dash: dashOf(look.dash, look.weight) };
  const strokes = look.drawn === "points" ? [] : curveStrokes(curve, planeOf(sheet, axis), style);
  return [
    ...under,
    ...strokes,
    ...curvePoints(curve, sheet, axis, ink),
    ...drawValues(curve, panel, sheet, axis, ink, free),
  ];
}
