/** What is filled between two edges: bands, and areas under a line; hatched where not measured. */
import { partsOf } from "../../figure/area";
import { filled, hatched, outline } from "../../figure/lineink";
import type { Node } from "../../figure/nodes";
import { lowerBound } from "../../figure/scale";
import type { Area } from "../../figure/types";
import type { ValueAxis } from "./axes";
import { keyOf, type Dressed, type OverTime, type Panel, type Sheet } from "./sheet";
import { planeOf } from "./strokes";

/** The fill of a line down to zero, or to another line where both have a number. */
export function fillOf(drawn: OverTime, panel: Panel, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const to = panel.lines.find((line) => keyOf(line) === drawn.look.fill_to);
  const other =
    to && "v" in to && Array.isArray(to.v) && Array.isArray(to.t) ? { t: to.t, v: to.v } : undefined;
  const floor = drawn.t.map((t): number | null => {
    if (!other) return Math.max(axis.min, Math.min(0, axis.max));
    const n = lowerBound(other.t, t);
    return other.t[n] === t ? (other.v[n] ?? null) : null;
  });
  return filled(
    outline(drawn.t, floor, drawn.v, planeOf(sheet, axis), sheet.figure.shape),
    ink,
    drawn.look.fill,
  );
}

export function drawArea(area: Dressed<Area>, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  return partsOf(area).flatMap(({ part, sure }) => {
    const d = outline(part.t, part.lower, part.upper, planeOf(sheet, axis), "straight");
    return area.rests === "measured" ? filled(d, ink, area.look.fill) : hatched(d, ink, sure);
  });
}
