/** Areas as polygons, hatched where they are not measured; a gap is never closed by one. */
import type { Frame, Panel } from "./frame";
import { hatchOf } from "./hatch";
import { dotsOf, type Drawn } from "./ink";
import { node, type Node } from "./nodes";
import { quietArea } from "./quiet";
import { cornersOf, runsOf, straight } from "./runs";
import type { Point } from "./strokes";
import type { Area, Series } from "./types";

const MEASURED = 0.1; // strength of a fill
const STACKED = 0.28;

type Values = readonly (number | null | undefined)[];

/** The stretch of an area that is drawn, quieter where its points are too close to be told apart. */
export function drawArea(whole: Area, panel: Panel, colour: string, frame: Frame): Drawn[] {
  const width = panel.box.right - panel.box.left;
  return partsOf(whole).flatMap(({ part, sure }) => {
    const area = quietArea(part, frame.from, frame.to, width);
    const d = outline(area.t, area.lower, area.upper, panel, "straight");
    return filled(
      d,
      whole.rests === "measured"
        ? { fill: colour, "fill-opacity": MEASURED }
        : { fill: hatchOf(colour, sure) },
    );
  });
}

/** An area as far as it was held against what happened, and beyond; both have the point where they meet. */
export function partsOf(area: Area): { part: Area; sure: boolean }[] {
  const { tested } = area;
  if (tested === null || tested >= area.t.length) return [{ part: area, sure: true }];
  const cut = (from: number, to?: number): Area => ({
    ...area,
    t: area.t.slice(from, to),
    lower: area.lower.slice(from, to),
    upper: area.upper.slice(from, to),
  });
  const beyond = { part: cut(Math.max(0, tested - 1)), sure: false };
  return tested > 0 ? [{ part: cut(0, tested), sure: true }, beyond] : [beyond];
}

/** A stacked series between its floor and its top; what rests on something that is not there is hatched. */
export function stackedArea(line: Series, panel: Panel, colour: string, shape: string): Drawn[] {
  const { unsure } = line;
  const near = (n: number) => Boolean(unsure[n] || unsure[n - 1] || unsure[n + 1]);
  const part = (wanted: (n: number) => boolean) =>
    outline(line.t, line.floor, line.top, panel, shape, wanted);
  return [
    ...filled(
      part((n) => !unsure[n]),
      { fill: colour, "fill-opacity": STACKED },
    ),
    ...(unsure.some(Boolean) ? filled(part(near), { fill: hatchOf(colour) }) : []),
  ];
}

function filled(d: string, ink: Node["attributes"]): Drawn[] {
  return d ? [{ z: 1, node: node("path", { d, ...ink }) }] : [];
}

/** Polygons round the stretches in which both edges have a number. */
function outline(
  t: number[],
  lower: Values,
  upper: Values,
  panel: Panel,
  shape: string,
  wanted: (n: number) => boolean = () => true,
): string {
  const edge = (values: Values) => {
    const points = t.map((at, n): Point => {
      const both = typeof lower[n] === "number" && typeof upper[n] === "number";
      return [at, both && wanted(n) ? (values[n] ?? null) : null];
    });
    return runsOf(dotsOf(points, panel));
  };
  const floors = edge(lower);
  return edge(upper)
    .map((run, n) => {
      if (run.length < 2) return "";
      const back = cornersOf(floors[n] ?? [], shape).reverse();
      return `${straight(cornersOf(run, shape))}${straight(back).replace("M", "L")}Z`;
    })
    .join("");
}
