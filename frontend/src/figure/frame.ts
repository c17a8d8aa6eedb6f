/** The room a figure is drawn in, and how it is divided. */
import type { Figure, FigureLine } from "../api/client";
import type { Palette } from "../app/theme";
import { formatTick } from "../ui/format";
import { lowerBound, niceRange, type Box } from "./scale";

export interface Frame {
  width: number;
  height: number;
  from: number;
  to: number;
  palette: Palette;
  font: string;
  /** Room for a title and the key of textures, for a picture that leaves the screen. */
  forHandOver?: boolean;
  titleFont?: string;
  /** Room for the numbers of the value axis; what is usual where it is not given. */
  left?: number;
}

/** A chart of its own within the figure. */
export interface Panel {
  lines: FigureLine[];
  box: Box;
  range: { min: number; max: number; step: number };
}

export const MARGIN = { left: 56, right: 132, top: 22, bottom: 26 };
const BETWEEN_PANELS = 16;

export function plotBox(frame: Frame): Box {
  const extra = frame.forHandOver ? { top: 46, bottom: 34 } : { top: 0, bottom: 0 };
  return {
    left: frame.left ?? MARGIN.left,
    right: frame.width - MARGIN.right,
    top: MARGIN.top + extra.top,
    bottom: frame.height - MARGIN.bottom - extra.bottom,
  };
}

const DIGIT = 7;

/** The room that the longest number of the value axis needs, whatever stretch of time is shown. */
export function roomForNumbers(figure: Figure): number {
  const { min, max, step } = valueRange(figure, figure.lines, { from: -Infinity, to: Infinity });
  const longest = Math.max(...[min, max, min + step].map((value) => formatTick(value, step).length));
  return Math.max(MARGIN.left, 18 + DIGIT * longest);
}

export function lineColour(line: FigureLine, palette: Palette, alone: boolean): string {
  if (line.role === "projection" && alone) return palette.iris;
  return palette.series[line.colour % palette.series.length] ?? palette.lagoon;
}

/** How many series the figure shows. */
export function seriesCount(figure: Figure): number {
  return figure.lines.filter((line) => line.role === "series").length;
}

/** The widest window a figure has anything in. */
export function fullWindow(figure: Figure): [number, number] {
  let from = Infinity;
  let to = -Infinity;
  for (const line of figure.lines) {
    from = Math.min(from, line.t[0] ?? Infinity);
    to = Math.max(to, line.t.at(-1) ?? -Infinity);
  }
  return from < to ? [from, to] : [from - 86_400_000, from + 86_400_000];
}

/** One panel for all lines, or one for each series with what belongs to it. */
export function panelsOf(figure: Figure, frame: Frame): Panel[] {
  const whole = plotBox(frame);
  const all = valueRange(figure, figure.lines, frame);
  const names = figure.lines.filter((line) => line.role === "series").map((line) => line.series);
  if (figure.arrangement !== "apart" || names.length < 2)
    return [{ lines: figure.lines, box: whole, range: all }];
  const height = (whole.bottom - whole.top - BETWEEN_PANELS * (names.length - 1)) / names.length;
  const steps = Math.max(1, Math.min(5, Math.floor(height / 28)));
  return names.map((name, n) => {
    const lines = figure.lines.filter((line) => line.series === name);
    const top = whole.top + n * (height + BETWEEN_PANELS);
    const measured = figure.scale === "own" ? valueRange(figure, lines, frame) : all;
    return {
      lines,
      box: { ...whole, top, bottom: top + height },
      range: niceRange(measured.min, measured.max, steps),
    };
  });
}

/** The value axis that holds all that is drawn in the window; zero is on it unless it is far away. */
export function valueRange(figure: Figure, lines: FigureLine[], frame: Pick<Frame, "from" | "to">) {
  let low = Infinity;
  let high = -Infinity;
  const take = (value: number | null | undefined) => {
    if (value === null || value === undefined) return;
    if (value < low) low = value;
    if (value > high) high = value;
  };
  const stacked = figure.arrangement === "stacked";
  for (const line of lines) {
    const first = lowerBound(line.t, frame.from);
    for (let n = first; n < line.t.length && (line.t[n] ?? 0) <= frame.to; n++) {
      if (stacked && line.role === "series") {
        take(line.top?.[n]);
        take(line.floor?.[n]);
        continue;
      }
      if (figure.view !== "before") take(line.v[n]);
      if (figure.view !== "after" && line.role === "series") take(line.before?.[n]);
      for (const limits of line.limits ?? []) {
        take(limits.lower[n]);
        take(limits.upper[n]);
      }
    }
  }
  if (low > high) return niceRange(0, 1);
  if (low > 0 && low < high * 0.6) low = 0;
  return niceRange(low, high);
}

/** The series drawn nearest to a height at a period; the first one where none has a value there. */
export function lineAt(
  figure: Figure,
  frame: Frame,
  period: number | undefined,
  y: number,
): FigureLine | undefined {
  const panels = panelsOf(figure, frame);
  const panel = panels.find(({ box }) => y <= box.bottom + BETWEEN_PANELS / 2) ?? panels.at(-1);
  if (!panel) return undefined;
  const { box, range } = panel;
  const series = panel.lines.filter((line) => line.role === "series");
  let best: FigureLine | undefined = series[0];
  let nearest = Infinity;
  for (const line of series) {
    const n = period === undefined ? -1 : lowerBound(line.t, period);
    const value = (figure.arrangement === "stacked" ? line.top : line.v)?.[n];
    if (line.t[n] !== period || typeof value !== "number") continue;
    const at = box.bottom - ((value - range.min) / (range.max - range.min)) * (box.bottom - box.top);
    if (Math.abs(at - y) < nearest) [nearest, best] = [Math.abs(at - y), line];
  }
  return best;
}
