/** Areas as polygons, hatched where they are not measured: a polygon holds below zero, where stacked lines would not. */
import type { CustomSeriesRenderItemAPI, CustomSeriesRenderItemParams } from "echarts";
import type { Frame } from "./frame";
import { quietArea } from "./quiet";
import type { Area, Series } from "./types";

const HATCH_GAP = 6;

interface Rect {
  x: number;
  y: number;
  width: number;
  height: number;
}

interface Edge {
  t: number;
  lower: number;
  upper: number;
}

type Numbers = (number | null | undefined)[] | undefined;

/** Stretches of points that have both edges: a gap is never closed by a polygon. */
function stretchesOf(t: number[], lower: Numbers, upper: Numbers, from: number, to: number): Edge[][] {
  const stretches: Edge[][] = [[]];
  t.forEach((at, n) => {
    const low = lower?.[n];
    const high = upper?.[n];
    if (typeof low === "number" && typeof high === "number" && at >= from && at <= to)
      stretches.at(-1)?.push({ t: at, lower: low, upper: high });
    else if (stretches.at(-1)?.length) stretches.push([]);
  });
  return stretches.filter((one) => one.length > 1);
}

/** A custom series that draws some children, given how data becomes pixels. */
function shapes(stretches: Edge[][], children: (points: number[][], area: Rect) => object[]): object {
  const first = stretches[0]?.[0];
  return {
    type: "custom",
    silent: true,
    clip: true,
    z: 1,
    data: first ? [[first.t, first.lower]] : [],
    renderItem: (params: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => ({
      type: "group",
      children: stretches.flatMap((one) =>
        children(
          [
            ...one.map((at) => api.coord([at.t, at.upper])),
            ...one.map((at) => api.coord([at.t, at.lower])).reverse(),
          ],
          params.coordSys as unknown as Rect,
        ),
      ),
    }),
  };
}

/** The stretch of an area that is drawn, quieter where its points are too close to be told apart. */
export function drawArea(whole: Area, colour: string, frame: Frame, width: number, depth: number): object[] {
  const hatched = whole.rests !== "measured";
  return partsOf(whole).map(({ part, sure }) => {
    const area = quietArea(part, frame.from, frame.to, width);
    return shapes(stretchesOf(area.t, area.lower, area.upper, frame.from, frame.to), (points, room) => [
      {
        type: "polygon",
        shape: { points },
        style: { fill: colour, opacity: !sure ? 0.03 : hatched ? 0.07 + 0.05 * depth : 0.1 },
      },
      ...(hatched ? [hatching(points, room, colour, sure ? depth : -1)] : []),
    ]);
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

/** A stacked series as polygons between its floor and its top, one for each stretch without a hole; those
 * that rest on something that is not there are hatched. */
export function stackedArea(line: Series, colour: string, from: number, to: number, shape: string): object[] {
  const { unsure } = line;
  const between = (n: number) => unsure[n] || unsure[n - 1] || unsure[n + 1];
  const part = (edge: Numbers, wanted: (n: number) => boolean) =>
    edge?.map((value, n) => (wanted(n) ? value : null));
  const stretches = (wanted: (n: number) => boolean) =>
    stretchesOf(line.t, part(line.floor, wanted), part(line.top, wanted), from, to).map((one) =>
      stepped(one, shape),
    );
  const solid = shapes(
    stretches((n) => !unsure[n]),
    (points) => [{ type: "polygon", shape: { points }, style: { fill: colour, opacity: 0.28 } }],
  );
  if (!unsure.some(Boolean)) return [solid];
  const hatched = shapes(
    stretches((n) => Boolean(between(n))),
    (points, area) => [
      { type: "polygon", shape: { points }, style: { fill: colour, opacity: 0.08 } },
      hatching(points, area, colour, 0),
    ],
  );
  return [solid, hatched];
}

/** The corners that steps put between points. */
function stepped(stretch: Edge[], shape: string): Edge[] {
  const share = { held: 1, early: 0, mid: 0.5 }[shape];
  if (share === undefined) return stretch;
  return stretch.flatMap((point, n) => {
    const last = stretch[n - 1];
    if (!last) return [point];
    const turn = last.t + share * (point.t - last.t);
    return [{ ...last, t: turn }, { ...point, t: turn }, point];
  });
}

/** Diagonal strokes cut to a polygon. Deeper bands are hatched closer. */
function hatching(points: number[][], area: Rect, colour: string, depth: number): object {
  const xs = points.map((point) => point[0] ?? 0);
  const left = Math.min(...xs);
  const right = Math.max(...xs);
  // what was not tested is hatched wider and paler
  const gap = depth > 0 ? HATCH_GAP * 0.75 : depth < 0 ? HATCH_GAP * 1.6 : HATCH_GAP;
  const lines = [];
  for (let x = Math.floor((left - area.height) / gap) * gap; x < right; x += gap) {
    lines.push({
      type: "line",
      shape: { x1: x, y1: area.y + area.height, x2: x + area.height, y2: area.y },
      style: { stroke: colour, lineWidth: 1, opacity: depth < 0 ? 0.16 : 0.3 },
    });
  }
  return { type: "group", clipPath: { type: "polygon", shape: { points } }, children: lines };
}
