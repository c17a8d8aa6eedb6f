/** What is filled between two edges: bands, stacked series, and areas under a line; hatched where not measured. */
import { partsOf } from "../../figure/area";
import { lowerBound } from "../../figure/scale";
import type { Point } from "../../figure/strokes";
import type { Area } from "../../figure/types";
import type { ValueAxis } from "./axes";
import { node, type Node } from "./nodes";
import { cornersOf, runsOf, straight } from "./path";
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

const HATCH = "hatch-";
const PALE = "pale-";

/** The hatching of a colour, which the sheet defines once. sure: whether it stands for what was tested. */
export function hatchOf(ink: string, sure = true): string {
  return `url(#${HATCH}${sure ? "" : PALE}${ink.slice(1)})`;
}

/** The hatchings that are used in what is drawn. */
export function hatchDefinitions(drawn: Node[]): Node[] {
  const fills = new Set<string>();
  const look = (one: Node) => {
    const { fill } = one.attributes;
    if (typeof fill === "string" && fill.startsWith(`url(#${HATCH}`)) fills.add(fill);
    one.children.forEach(look);
  };
  drawn.forEach(look);
  return [...fills].map((fill) => {
    const id = fill.slice("url(#".length, -1);
    const sure = !id.startsWith(`${HATCH}${PALE}`);
    const ink = `#${id.slice(HATCH.length + (sure ? 0 : PALE.length))}`;
    const size = sure ? 5 : 9;
    return node(
      "pattern",
      { id, width: size, height: size, patternUnits: "userSpaceOnUse", patternTransform: "rotate(45)" },
      [
        node("rect", { width: size, height: size, fill: ink, "fill-opacity": sure ? 0.08 : 0.03 }),
        node("line", {
          x1: 0,
          y1: 0,
          x2: 0,
          y2: size,
          stroke: ink,
          "stroke-width": 1.4,
          "stroke-opacity": sure ? 0.55 : 0.3,
        }),
      ],
    );
  });
}
