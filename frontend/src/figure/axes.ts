/** Axes as they are drawn: the grid, numbers beside it, and the line that periods stand on. */
import { written } from "./board";
import { node, type Node } from "./nodes";
import type { Palette } from "./palette";
import type { Box, Tick } from "./scale";
import { widthOf } from "./text";

export const TICK = 12; // pixels of the letters of numbers and dates
const APART = 4; // pixels between two dates
const AWAY = 7; // pixels from the plot to a number

/** On a screen, lines of one pixel lie on whole pixels; in a picture, where they are. */
type Snap = (at: number) => number;
export const ON_PIXELS: Snap = (at) => Math.round(at) + 0.5;
export const AS_IS: Snap = (at) => at;

export function gridLines(ticks: readonly Tick[], toY: Snap, box: Box, ink: string, snap: Snap): Node[] {
  return ticks.map((tick) => {
    const y = snap(toY(tick.at));
    return node("line", { x1: box.left, y1: y, x2: box.right, y2: y, stroke: ink, "stroke-width": 1 });
  });
}

/** Numbers left or right of the plot. */
export function axisNumbers(
  ticks: readonly Tick[],
  toY: Snap,
  box: Box,
  side: "left" | "right",
  ink: string,
): Node[] {
  return ticks.map((tick) => {
    const x = side === "left" ? box.left - AWAY - widthOf(tick.label, TICK) : box.right + AWAY;
    return written(tick.label, x, toY(tick.at) - TICK / 2, { fill: ink, size: TICK });
  });
}

/** The line that periods stand on, with its ticks and dates where it is named. reach: from where to where dates may stand. */
export function timeAxis(
  ticks: readonly Tick[],
  toX: Snap,
  {
    box,
    palette,
    reach,
    named,
    snap,
  }: { box: Box; palette: Palette; reach: [number, number]; named: boolean; snap: Snap },
): Node[] {
  const line = (x1: number, y1: number, x2: number, y2: number, stroke: string) =>
    node("line", { x1, y1, x2, y2, stroke, "stroke-width": 1 });
  const foot = snap(box.bottom);
  const axis = line(box.left, foot, box.right, foot, named ? palette.ink : palette.rule);
  if (!named) return [axis];
  const marks = ticks.map((tick) => {
    const x = snap(toX(tick.at));
    return line(x, foot, x, foot + 4, palette.ink);
  });
  const taken: [number, number][] = [];
  // years and months are kept where there is no room for all
  const dates = [...ticks]
    .sort((a, b) => +b.strong - +a.strong)
    .flatMap((tick) => {
      const width = widthOf(tick.label, TICK, tick.strong ? "sans600" : "sans400");
      const x = Math.max(reach[0], Math.min(toX(tick.at) - width / 2, reach[1] - width));
      if (!tick.label || taken.some(([left, right]) => x - APART < right && x + width + APART > left))
        return [];
      taken.push([x, x + width]);
      const ink = tick.strong ? palette.ink : palette.muted;
      return [
        written(tick.label, x, box.bottom + 6, { fill: ink, size: TICK, weight: tick.strong ? 600 : 400 }),
      ];
    });
  return [axis, ...marks, ...dates];
}
