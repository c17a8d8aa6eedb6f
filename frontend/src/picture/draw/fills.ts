/** What is filled between two edges: bands, stacked series, and areas under a line; hatched where not measured. */
import { partsOf } from "../../figure/area";
import { lowerBound } from "../../figure/scale";
import type { Point } from "../../figure/strokes";
import type { Area } from "../../figure/types";
import type { ValueAxis } from "./axes";
import { node, type Node } from "../../figure/nodes";
import { hatchOf } from "../../figure/hatch";
import { cornersOf, runsOf, straight } from "../../figure/runs";
import { keyOf, type Dressed, type OverTime, type Panel, type Sheet } from "./sheet";
import { dots } from "./strokes";

type Values = readonly (number | null)[];

/** The fill of a line down to zero, or to another line where both have a number. */
export function filled(one: OverTime, panel: Panel, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const to = panel.lines.find((line) => keyOf(line) === one.look.fill_to);
  const other =
    to && "v" in to && Array.isArray(to.v) && Array.isArray(to.t) ? { t: to.t, v: to.v } : undefined;
  const floor = one.t.map((t): number | null => {
    if (!other) return Math.max(axis.min, Math.min(0, axis.max));
    const n = lowerBound(other.t, t);
    return other.t[n] === t ? (other.v[n] ?? null) : null;
  });
  return solid(outline(one.t, floor, one.v, sheet, axis, sheet.figure.shape), ink, one.look.fill);
}

/** A stacked series between its floor and its top; what rests on something that is not there is hatched. */
export function stackedBand(
  one: { t: number[]; floor: Values; top: Values; unsure: boolean[] },
  sheet: Sheet,
  axis: ValueAxis,
  ink: string,
): Node[] {
  const { unsure } = one;
  const near = (n: number) => Boolean(unsure[n] || unsure[n - 1] || unsure[n + 1]);
  const part = (wanted: (n: number) => boolean) =>
    outline(one.t, one.floor, one.top, sheet, axis, sheet.figure.shape, wanted);
  return [
    ...solid(
      part((n) => !unsure[n]),
      ink,
      STACKED,
    ),
    ...(unsure.some(Boolean) ? hatched(part(near), ink) : []),
  ];
}

const STACKED = 0.28;

export function drawArea(one: Dressed<Area>, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  return partsOf(one).flatMap(({ part, sure }) => {
    const d = outline(part.t, part.lower, part.upper, sheet, axis, "straight");
    return one.rests === "measured" ? solid(d, ink, one.look.fill) : hatched(d, ink, sure);
  });
}

function solid(d: string, ink: string, strength: number): Node[] {
  return d ? [node("path", { d, fill: ink, "fill-opacity": strength })] : [];
}

function hatched(d: string, ink: string, sure = true): Node[] {
  return d ? [node("path", { d, fill: hatchOf(ink, sure) })] : [];
}

/** Polygons round the stretches in which both edges have a number. */
function outline(
  t: number[],
  lower: Values,
  upper: Values,
  sheet: Sheet,
  axis: ValueAxis,
  shape: string,
  wanted: (n: number) => boolean = () => true,
): string {
  const edge = (values: Values) =>
    runsOf(
      dots(
        t.map((at, n): Point => {
          const both = typeof lower[n] === "number" && typeof upper[n] === "number";
          return [at, both && wanted(n) ? (values[n] ?? null) : null];
        }),
        sheet,
        axis,
      ),
    );
  const floors = edge(lower);
  return edge(upper)
    .map((run, n) => {
      const back = cornersOf(floors[n] ?? [], shape).reverse();
      return run.length > 1 ? `${straight(cornersOf(run, shape))}${straight(back).replace("M", "L")}Z` : "";
    })
    .join("");
}
