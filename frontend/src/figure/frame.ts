/** The room a figure is drawn in, how it is divided, and the scales of each part. */
import { formatTick } from "../ui/format";
import { inkOf, type Palette } from "./palette";
import { linearScale, logScale, niceRange, timeScale, type Box, type Scale, lowerBound } from "./scale";
import { shapesOf, type Curve, type Figure, type Series, type Shape } from "./types";

export interface Frame {
  width: number;
  height: number;
  from: number;
  to: number;
  palette: Palette;
  font: string;
  /** Room for the numbers of the value axis; what is usual where it is not given. */
  left?: number;
}

/** A chart of its own within the figure. */
export interface Panel {
  series: Series[];
  shapes: Shape[];
  box: Box;
  time: Scale;
  value: Scale;
}

export const MARGIN = { left: 56, right: 150, top: 22, bottom: 26 };
/** Series up to here have colours of their own. */
export const MOST_COLOURED = 12;
const BETWEEN_PANELS = 16;
const SMALLEST_PANEL = 52;

export function plotBox(frame: Frame): Box {
  return {
    left: frame.left ?? MARGIN.left,
    right: frame.width - MARGIN.right,
    top: MARGIN.top,
    bottom: frame.height - MARGIN.bottom,
  };
}

/** The height that a figure needs to be read, where that is more than there is. */
export function heightNeeded(figure: Figure, height: number): number {
  if (figure.arrangement !== "apart") return height;
  const panels = figure.series.length * (SMALLEST_PANEL + BETWEEN_PANELS);
  return Math.max(height, panels + MARGIN.top + MARGIN.bottom);
}

const DIGIT = 7;

/** The room that the longest number of the value axis needs, whatever stretch of time is shown. */
export function roomForNumbers(figure: Figure): number {
  const { min, max, step } = valueRange(figure, figure.series, figure.shapes, ALWAYS);
  const longest = Math.max(...[min, max, min + step].map((value) => formatTick(value, step).length));
  return Math.max(MARGIN.left, 18 + DIGIT * longest);
}

/** Stands where a series would, for what belongs to several together. */
const TOGETHER = "";

const ALWAYS = { from: -Infinity, to: Infinity };

/** The colour of a series, or of what was drawn of it. */
export function colourOf(drawn: Series | Shape, figure: Figure, palette: Palette): string {
  if (drawn.look) return inkOf(drawn.look.colour, palette, palette.paper);
  if ("series" in drawn && drawn.series === TOGETHER) return palette.ink;
  if ("rests" in drawn && drawn.rests === "projected" && figure.series.length === 1) return palette.iris;
  const fitted = fittedOf(drawn, figure);
  if (fitted && figure.series.length > 1) {
    // several trend lines of several series are told apart by colours that no series has
    const taken = new Set(figure.series.map((each) => each.colour % palette.series.length));
    const free = palette.series.filter((_, n) => !taken.has(n));
    const lines = shapesOf(figure, "curve").filter((each) => each.equation && !each.part_of);
    const place = lines.findIndex((each) => each.id === fitted);
    if (place >= 0 && free.length) return free[place % free.length] ?? palette.lagoon;
  }
  if (figure.series.length > MOST_COLOURED) return palette.lagoonSoft;
  if ("entry" in drawn && figure.series.length === 1) {
    const beside = drawn.shape === "curve" && drawn.beside ? besidePlace(drawn, figure) : -1;
    if (beside >= 0) return palette.series[OWN.at(-1 - (beside % OWN.length)) ?? 0] ?? palette.lagoon;
    const place = entryPlace(drawn, figure);
    if (place > 0) return palette.series[OWN[(place - 1) % OWN.length] ?? 0] ?? palette.lagoon;
    if (fitted) return palette.series[OWN[FIRST_TREND] ?? 0] ?? palette.lagoon;
  }
  return palette.series[drawn.colour % palette.series.length] ?? palette.lagoon;
}

/** The place in OWN of a trend line that is the first reading: it is never in the colour of the points it runs through. */
const FIRST_TREND = 6;

/** The id of the fitted line that a shape is, carries on or lies round; undefined for anything else. */
function fittedOf(drawn: Series | Shape, figure: Figure): string | undefined {
  if (!("shape" in drawn)) return undefined;
  if (drawn.shape === "curve") return drawn.equation ? drawn.part_of || drawn.id : undefined;
  if (drawn.shape !== "area") return undefined;
  const around = shapesOf(figure, "curve").find((each) => each.id === drawn.of);
  return around?.equation ? around.part_of || around.id : undefined;
}

/** Colours for the readings of a series that stands alone: neither ember, which asks for attention, nor iris, which is
 * projected. */
const OWN = [3, 4, 5, 6, 7, 8, 9, 11];

/** Which of the entries that drew a line of their own made a shape; the first one has the colour of its series. */
function entryPlace(shape: Shape, figure: Figure): number {
  const lines = figure.shapes.filter(
    (other) =>
      (other.shape === "curve" || other.shape === "area" || (other.shape === "rule" && other.v !== null)) &&
      other.rests !== "projected",
  );
  return [...new Set(lines.map((line) => line.entry))].indexOf(shape.entry);
}

/** The place of a curve among those that are laid beside their series. */
export function besidePlace(curve: Curve, figure: Figure): number {
  return shapesOf(figure, "curve", curve.series)
    .filter((shape) => shape.beside)
    .findIndex((other) => other.id === curve.id);
}

/** Whether the line of a series is left out, as it has a reading that stands for it. */
export function isHidden(series: Series, figure: Figure): boolean {
  return figure.raw === "hidden" && hasReading(figure, series.name);
}

export function hasReading(figure: Figure, series: string): boolean {
  return shapesOf(figure, "curve", series).some((curve) => curve.rests !== "projected" && !curve.beside);
}

/** The widest window a figure has anything in. */
export function fullWindow(figure: Figure): [number, number] {
  let from = Infinity;
  let to = -Infinity;
  for (const t of timesOf(figure)) {
    from = Math.min(from, t[0] ?? Infinity);
    to = Math.max(to, t.at(-1) ?? -Infinity);
  }
  if (from === Infinity) return [0, 86_400_000];
  to = Math.max(to, figure.until ?? to);
  return from < to ? [from, to] : [from - 86_400_000, from + 86_400_000];
}

/** The times of all that has a value over time. */
export function timesOf(figure: Figure): number[][] {
  return [
    ...figure.series.map((series) => series.t),
    ...figure.shapes.flatMap((shape) => ("t" in shape && Array.isArray(shape.t) ? [shape.t] : [])),
  ];
}

/** One panel for all, or one for each series with what belongs to it. */
export function panelsOf(figure: Figure, frame: Frame): Panel[] {
  const whole = plotBox(frame);
  const within = figure.follows === "all" ? ALWAYS : frame;
  const all = valueRange(figure, figure.series, figure.shapes, within);
  const time = timeScale(frame.from, frame.to, [whole.left, whole.right]);
  const { series } = figure;
  if (figure.arrangement !== "apart" || series.length < 2) {
    const value = valueScale(figure, all, whole);
    return [{ series, shapes: figure.shapes, box: whole, time, value }];
  }
  const height = (whole.bottom - whole.top - BETWEEN_PANELS * (series.length - 1)) / series.length;
  const steps = Math.max(1, Math.min(5, Math.floor(height / 28)));
  return series.map((line, n) => {
    const shapes = figure.shapes.filter((shape) => [line.name, TOGETHER].includes(shape.series));
    const top = whole.top + n * (height + BETWEEN_PANELS);
    const box = { ...whole, top, bottom: top + height };
    const measured = figure.scale === "own" ? valueRange(figure, [line], shapes, within) : all;
    const range = niceRange(measured.min, measured.max, steps);
    return { series: [line], shapes, box, time, value: valueScale(figure, range, box) };
  });
}

/** The value axis of a panel. A logarithmic one holds only what is above zero. */
function valueScale(figure: Figure, range: { min: number; max: number; step: number }, box: Box): Scale {
  const pixels: [number, number] = [box.bottom, box.top];
  if (figure.scales[0]?.kind !== "log" || range.max <= 0) return linearScale(range, pixels);
  const low = Math.min(
    ...figure.series.flatMap((series) => series.v.filter((v): v is number => v !== null && v > 0)),
  );
  return logScale(Math.min(low, range.max), range.max, pixels);
}

type Values = readonly (number | null)[];

/** The value range that holds all that is drawn in the window; zero is in it unless it is far away. */
function valueRange(
  figure: Figure,
  series: Series[],
  shapes: Shape[],
  window: Pick<Frame, "from" | "to">,
): { min: number; max: number; step: number } {
  let low = Infinity;
  let high = -Infinity;
  const take = (t: number[], ...columns: (Values | undefined)[]) => {
    for (let n = lowerBound(t, window.from); n < t.length && (t[n] ?? 0) <= window.to; n++) {
      for (const values of columns) {
        const value = values?.[n];
        if (value === null || value === undefined) continue;
        if (value < low) low = value;
        if (value > high) high = value;
      }
    }
  };
  for (const line of series) {
    if (figure.arrangement === "stacked") take(line.t, line.top, line.floor);
    else if (!isHidden(line, figure))
      take(
        line.t,
        figure.view === "before" ? undefined : line.v,
        figure.view === "after" ? undefined : line.before,
      );
  }
  for (const shape of figure.view === "before" ? [] : shapes) {
    if (shape.shape === "curve" || shape.shape === "points") take(shape.t, shape.v);
    else if (shape.shape === "area") take(shape.t, shape.lower, shape.upper);
    else if (shape.shape === "bars") take([...shape.t, shape.t.at(-1) ?? 0], [...shape.v, 0]);
    else if (shape.shape === "rule" && shape.v !== null) take([window.from], [shape.v]);
  }
  if (low > high) return niceRange(0, 1);
  if (low > 0 && low < high * 0.6) low = 0;
  return niceRange(low, high);
}

/** The series drawn nearest to a height at a period; the first one where none has a value there. */
export function seriesAt(
  figure: Figure,
  panels: Panel[],
  period: number | undefined,
  y: number,
): Series | undefined {
  const panel = panels.find(({ box }) => y <= box.bottom + BETWEEN_PANELS / 2) ?? panels.at(-1);
  let best = panel?.series[0];
  let nearest = Infinity;
  for (const series of panel?.series ?? []) {
    const n = period === undefined ? -1 : lowerBound(series.t, period);
    const value = (figure.arrangement === "stacked" ? series.top : series.v)[n];
    if (series.t[n] !== period || typeof value !== "number" || !panel) continue;
    const away = Math.abs(panel.value.toPixel(value) - y);
    if (away < nearest) [nearest, best] = [away, series];
  }
  return best;
}

/** What a curve or area is called where others are beside it. */
export function fullName(curve: Curve, figure: Figure, name = curve.name): string {
  return curve.series === TOGETHER || figure.series.length === 1 || figure.arrangement === "apart"
    ? name
    : `${curve.series}, ${name}`;
}
