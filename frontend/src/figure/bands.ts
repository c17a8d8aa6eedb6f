/** Limits as hatched polygons: a polygon holds below zero, where stacked lines would not. */
import type { CustomSeriesRenderItemAPI, CustomSeriesRenderItemParams } from "echarts";
import type { FigureLine } from "../api/client";

const HATCH_GAP = 6;

interface Rect {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** One custom series per level of limits, the widest first and palest. */
export function bandSeries(line: FigureLine, colour: string, from: number, to: number): object[] {
  const widest = [...(line.limits ?? [])].sort((a, b) => b.level - a.level);
  return widest.map((limits, n) => {
    const shape = line.t.flatMap((t, at) => {
      const lower = limits.lower[at];
      const upper = limits.upper[at];
      const known = lower !== null && upper !== null && lower !== undefined && upper !== undefined;
      return known && t >= from && t <= to ? [{ t, lower, upper }] : [];
    });
    const hatched = line.role === "projection";
    return {
      type: "custom",
      silent: true,
      clip: true,
      z: 1,
      data: shape.length > 1 ? [[shape[0]?.t, shape[0]?.lower]] : [],
      renderItem: (params: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
        const upper = shape.map((one) => api.coord([one.t, one.upper]));
        const lower = shape.map((one) => api.coord([one.t, one.lower])).reverse();
        const points = [...upper, ...lower];
        const area = params.coordSys as unknown as Rect;
        return {
          type: "group",
          children: [
            {
              type: "polygon",
              shape: { points },
              style: { fill: colour, opacity: hatched ? 0.07 + 0.05 * n : 0.1 },
            },
            ...(hatched ? [hatching(points, area, colour, n)] : []),
          ],
        };
      },
    };
  });
}

/** A stacked series as polygons between its floor and its top, one for each stretch without a hole. */
export function areaSeries(
  line: FigureLine,
  colour: string,
  from: number,
  to: number,
  shape: string,
): object {
  const stretches: { t: number; lower: number; upper: number }[][] = [[]];
  line.t.forEach((t, n) => {
    const lower = line.floor?.[n];
    const upper = line.top?.[n];
    if (typeof lower !== "number" || typeof upper !== "number" || t < from || t > to) {
      if (stretches.at(-1)?.length) stretches.push([]);
      return;
    }
    const last = stretches.at(-1)?.at(-1);
    if (last && (shape === "held" || shape === "mid"))
      stretches.at(-1)?.push({ ...last, t: shape === "held" ? t : (last.t + t) / 2 });
    if (last && (shape === "early" || shape === "mid"))
      stretches.at(-1)?.push({ t: shape === "early" ? last.t : (last.t + t) / 2, lower, upper });
    stretches.at(-1)?.push({ t, lower, upper });
  });
  const drawn = stretches.filter((one) => one.length > 1);
  const first = drawn[0]?.[0];
  return {
    type: "custom",
    silent: true,
    clip: true,
    z: 1,
    data: first ? [[first.t, first.lower]] : [],
    renderItem: (_: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => ({
      type: "group",
      children: drawn.map((one) => ({
        type: "polygon",
        shape: {
          points: [
            ...one.map((at) => api.coord([at.t, at.upper])),
            ...one.map((at) => api.coord([at.t, at.lower])).reverse(),
          ],
        },
        style: { fill: colour, opacity: 0.28 },
      })),
    }),
  };
}

/** Diagonal strokes cut to a polygon. Deeper bands are hatched closer. */
function hatching(points: number[][], area: Rect, colour: string, depth: number): object {
  const xs = points.map((point) => point[0] ?? 0);
  const left = Math.min(...xs);
  const right = Math.max(...xs);
  const gap = depth > 0 ? HATCH_GAP * 0.75 : HATCH_GAP;
  const lines = [];
  for (let x = Math.floor((left - area.height) / gap) * gap; x < right; x += gap) {
    lines.push({
      type: "line",
      shape: { x1: x, y1: area.y + area.height, x2: x + area.height, y2: area.y },
      style: { stroke: colour, lineWidth: 1, opacity: 0.3 },
    });
  }
  return { type: "group", clipPath: { type: "polygon", shape: { points } }, children: lines };
}
