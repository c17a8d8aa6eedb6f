/** Points of lines, and values written at them. */
import { label, LABEL } from "../../figure/board";
import { mark } from "../../figure/mark";
import type { Placing } from "../../figure/placing";
import { lowerBound } from "../../figure/scale";
import { lonePoints } from "../../figure/strokes";
import type { Curve, Series } from "../../figure/types";
import { valueText, type ValueAxis } from "./axes";
import { leftOut, type Node } from "../../figure/nodes";
import type { Dot } from "../../figure/runs";
import { within, type Dressed, type Look, type OverTime, type Panel, type Sheet } from "./sheet";
import { widthOf } from "../../figure/text";

const POINT = 3.1; // radius
const CODES: Record<string, string> = { odd: "fas", all: "mfasp", measured: "m" };

/** Which points are drawn: of a line that is drawn as points only, all where nothing else is said. */
function pointsOf(look: Look): string {
  return look.drawn === "points" ? "all" : look.points;
}

/** The points of a series as they are dressed; what stands alone or is set aside shows in any dress. */
export function seriesPoints(line: Dressed<Series>, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const { look } = line;
  const places = placesOf(line, pointsOf(look), sheet);
  const alone = lonePoints(line)
    .filter(([t]) => within(t, sheet))
    .map(([t]) => lowerBound(line.t, t));
  const asideToo = [...line.c].flatMap((code, n) =>
    "st".includes(code) && within(line.t[n], sheet) ? [n] : [],
  );
  const every = [...new Set([...places, ...(look.drawn === "points" ? [] : alone), ...asideToo])];
  return every.flatMap((n) => {
    const [t, v] = [line.t[n], line.v[n]];
    if (t === undefined || v === null || v === undefined || !axis.holds(v)) return [];
    const code = line.c[n] ?? "m";
    const aside = "st".includes(code);
    const at: Dot = [sheet.toX(t), axis.toY(v)];
    const shape = code === "f" ? "diamond" : code === "a" ? "triangle" : aside ? "circle" : look.point_shape;
    const size = aside ? POINT * 1.4 : POINT;
    return [mark(shape, at, size, code === "m" ? ink : sheet.ground, aside ? sheet.palette.ember : ink)];
  });
}

export function curvePoints(curve: Dressed<Curve>, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const fill = curve.rests === "measured" ? ink : sheet.ground;
  return placesOf(curve, pointsOf(curve.look), sheet).flatMap((n) => {
    const v = curve.v[n] ?? 0;
    return axis.holds(v)
      ? [mark(curve.look.point_shape, [sheet.toX(curve.t[n] ?? 0), axis.toY(v)], POINT, fill, ink)]
      : [];
  });
}

/** Places of the points of a line that a word speaks of. */
function placesOf(line: OverTime, wanted: string, sheet: Sheet): number[] {
  const shown = line.t.flatMap((t, n) => (within(t, sheet) && typeof line.v[n] === "number" ? [n] : []));
  const [first, last] = [shown[0], shown.at(-1)];
  if (first === undefined || last === undefined || wanted === "none") return [];
  if (wanted === "last") return [last];
  if (wanted === "ends") return [first, last];
  if (wanted === "extremes") {
    const by = (better: (a: number, b: number) => boolean) =>
      shown.reduce((best, n) => (better(line.v[n] ?? 0, line.v[best] ?? 0) ? n : best), first);
    return [...new Set([by((a, b) => a > b), by((a, b) => a < b)])];
  }
  if (wanted === "marked") {
    const marked = new Set(sheet.figure.shapes.flatMap((shape) => (shape.shape === "points" ? shape.t : [])));
    return shown.filter((n) => marked.has(line.t[n] ?? 0));
  }
  const codes = CODES[wanted];
  return codes && "c" in line ? shown.filter((n) => codes.includes(line.c[n] ?? "")) : shown;
}

/** Values written at the points that the dress names, where they cover no other. */
export function drawValues(
  line: OverTime,
  panel: Panel,
  sheet: Sheet,
  axis: ValueAxis,
  ink: string,
  free: Placing,
): Node[] {
  let missing = 0;
  const drawn = placesOf(line, line.look.values, sheet).flatMap((n) => {
    const v = line.v[n] ?? 0;
    if (!axis.holds(v)) return [];
    const text = valueText(v, axis);
    const [x, y] = [sheet.toX(line.t[n] ?? 0), axis.toY(v)];
    const width = widthOf(text, LABEL);
    const { box } = panel;
    const left = Math.max(box.left, Math.min(x - width / 2, box.right - width));
    const spot = free.choose(width, [{ left, y: y + (peakAt(line.v, n) ? ABOVE : BELOW) }], true);
    if (!spot) missing += 1;
    return spot ? [label(text, spot.left, spot.y, ink, sheet.ground)] : [];
  });
  return [...drawn, ...leftOut(missing)];
}

const ABOVE = -18;
const BELOW = 6;

function peakAt(v: (number | null)[], n: number): boolean {
  const here = v[n] ?? 0;
  return here >= Math.max(v[n - 1] ?? -Infinity, v[n + 1] ?? -Infinity);
}
