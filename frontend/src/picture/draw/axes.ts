/** The scales of a picture: their range, their ticks and how numbers are written. */
import {
  clockTicks,
  DAY,
  linearScale,
  logScale,
  monthTicks,
  niceRange,
  type Box,
  type DateWords,
  type Tick,
  lowerBound,
} from "../../figure/scale";
import type { Figure } from "../../figure/types";
import { formatTick, THIN, withMarks } from "../../ui/format";
import { isSeries, type Line, type TimeLook } from "./sheet";
import { widthOf } from "../../figure/text";

type ScaleView = Figure["scales"][number];

export interface ValueAxis {
  view: ScaleView;
  min: number;
  max: number;
  ticks: Tick[];
  toY: (value: number) => number;
  toValue: (y: number) => number;
  /** Whether a value has a place on it. */
  holds: (value: number) => boolean;
}

type Form = NonNullable<ScaleView["form"]>;

const USUAL: Form = { before: "", after: "", divide: 1, decimals: null, decimal: ".", group: THIN };

export function valueAxis(figure: Figure, view: ScaleView, lines: Line[], box: Box): ValueAxis {
  const count = Math.max(2, Math.min(7, Math.floor((box.bottom - box.top) / 46)));
  const range = rangeOf(figure, view, lines, count);
  const logarithmic = view.kind === "log" && range.high > 0;
  const pixels: [number, number] = [box.bottom, box.top];
  const scale = logarithmic ? logScale(range.positive, range.high, pixels) : linearScale(range, pixels);
  const ticks = scale.ticks.map((tick) => ({
    ...tick,
    label: written(tick.at, logarithmic ? tick.at : range.step, view),
  }));
  return {
    view,
    min: scale.domain[0],
    max: scale.domain[1],
    ticks: logarithmic && ticks.length > count * 2 ? ticks.filter((tick) => tick.strong) : ticks,
    toY: scale.toPixel,
    toValue: scale.toValue,
    holds: (value) => !logarithmic || value > 0,
  };
}

/** A number as the scale writes it. step: between two ticks, which says how many decimals are needed. */
function written(value: number, step: number, view: ScaleView): string {
  const form = view.form ?? USUAL;
  const { decimals } = form;
  return decimals === null
    ? around(formatTick(value / form.divide, step / form.divide), form)
    : withDecimals(value / form.divide, decimals, view);
}

function withDecimals(shown: number, decimals: number, view: ScaleView): string {
  return around(formatTick(Number(shown.toFixed(decimals)), 10 ** -decimals), view.form ?? USUAL);
}

/** A number with its marks and its unit. */
function around(text: string, form: Form): string {
  return `${form.before}${withMarks(text, form)}${form.after}`;
}

/** A value to three or four digits, in the words of its scale. */
export function valueText(value: number, { view }: ValueAxis): string {
  const form = view.form ?? USUAL;
  const shown = value / form.divide;
  const size = Math.abs(shown);
  const needed = size >= 100 || Number.isInteger(shown) ? 0 : size >= 10 ? 1 : 2;
  return withDecimals(shown, form.decimals ?? needed, view);
}

interface Range {
  min: number;
  max: number;
  step: number;
  high: number;
  positive: number;
}

function rangeOf(figure: Figure, view: ScaleView, lines: Line[], count: number): Range {
  let low = Infinity;
  let high = -Infinity;
  let positive = Infinity;
  const start = figure.time?.start ?? -Infinity;
  const end = figure.time?.end ?? Infinity;
  const take = (value: number | null | undefined) => {
    if (value === null || value === undefined) return;
    low = Math.min(low, value);
    high = Math.max(high, value);
    if (value > 0) positive = Math.min(positive, value);
  };
  const column = (t: number[], values: readonly (number | null)[] | undefined) => {
    for (let n = lowerBound(t, start); n < t.length && (t[n] ?? 0) <= end; n++) take(values?.[n]);
  };
  for (const line of lines) {
    if (isSeries(line)) {
      if (figure.arrangement === "stacked") {
        column(line.t, line.top);
        column(line.t, line.floor);
      } else column(line.t, figure.view === "before" ? line.before : line.v);
    } else if (line.shape === "curve" || line.shape === "points" || line.shape === "bars")
      column(line.t, line.v);
    else if (line.shape === "area") {
      column(line.t, line.lower);
      column(line.t, line.upper);
    } else if (line.shape === "rule" && line.v !== null) take(line.v);
    if (fromZero(line) && view.low === null && !view.tight) take(0);
  }
  if (low > high) [low, high] = [0, 1];
  const smallest = low;
  if (!view.tight && view.low === null && low > 0 && low < high * 0.6) low = 0;
  if (view.low !== null) low = view.low;
  if (view.high !== null) high = view.high;
  if (high <= low) high = low + (Math.abs(low) || 1);
  const nice = niceRange(low, high, count);
  return {
    min: view.low ?? (view.tight ? smallest : nice.min),
    max: view.high ?? nice.max,
    step: nice.step,
    high,
    // where nothing above zero is drawn, a logarithmic scale has no end of its own
    positive: view.low !== null && view.low > 0 ? view.low : Math.min(positive, high),
  };
}

/** Whether a line stands for its distance from zero. */
export function fromZero(line: Line): boolean {
  return line.look.drawn === "bars" || (line.look.drawn === "area" && !line.look.fill_to);
}

const STEP: Record<string, number> = { month: 1, quarter: 3, year: 12, fiscal: 12 };

/** Ticks by a unit of the calendar; where these would stand on each other, every so many of them have a name. */
export function calendarTicks(time: TimeLook, width: number, words: DateWords): Tick[] {
  const months = STEP[time.ticks];
  if (months === undefined)
    return thinned(clockTicks(time.start, time.end, time.ticks === "week" ? 7 * DAY : DAY, words), width);
  const first = time.ticks === "fiscal" ? time.fiscal - 1 : 0;
  const ticks = monthTicks(time.start, time.end, months, first, words);
  return thinned(
    ticks.map((tick) => ({ ...tick, ...named(time, tick, words) })),
    width,
  );
}

/** What a tick at the start of a month is called. */
function named(time: TimeLook, tick: Tick, words: DateWords): Partial<Tick> {
  const at = new Date(tick.at);
  const year = at.getUTCFullYear();
  if (time.ticks === "year") return { label: String(year), strong: true };
  if (time.ticks === "fiscal")
    return {
      label: time.fiscal === 1 ? String(year) : `${year}/${String((year + 1) % 100).padStart(2, "0")}`,
      strong: true,
    };
  if (time.ticks !== "quarter") return {};
  const quarter = at.getUTCMonth() / 3;
  const label = (tick.strong ? words.year_quarters : words.quarters)[quarter] ?? "";
  return { label: label.replace("{y}", String(year)) };
}

function thinned(ticks: Tick[], width: number): Tick[] {
  const widest = Math.max(1, ...ticks.map((tick) => widthOf(tick.label, 12, "sans600") + 10));
  const every = Math.max(1, Math.ceil((ticks.length * widest) / Math.max(width, 1)));
  return ticks.map((tick, n) => (n % every === 0 ? tick : { ...tick, label: "" }));
}
