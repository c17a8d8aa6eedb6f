/** Axes worked out apart from any drawing, so that every renderer places things alike. */
import { bisectLeft } from "d3-array";
import { formatTick } from "../ui/format";

export interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

export interface Tick {
  at: number;
  label: string;
  strong: boolean;
}

/** One axis: values to pixels and back, and its ticks. Used by all that draws, labels or points. */
export interface Scale {
  readonly kind: "linear" | "log" | "time";
  /** The smallest and the largest value, and the pixels they stand at. */
  readonly domain: readonly [number, number];
  readonly pixels: readonly [number, number];
  readonly ticks: readonly Tick[];
  toPixel(value: number): number;
  toValue(pixel: number): number;
}

type Way = (value: number) => number;

/** Our own: called for every point at every turn of a wheel, d3's halves the frames a second, and the ticks are ours anyway. */
function scaleOf(
  kind: Scale["kind"],
  domain: [number, number],
  pixels: [number, number],
  ticks: Tick[],
  there: Way = (value) => value,
  back: Way = (value) => value,
): Scale {
  const [low, high] = [there(domain[0]), there(domain[1])];
  const [first, last] = pixels;
  const each = (last - first || 1) / (high - low || 1);
  return {
    kind,
    domain,
    pixels,
    ticks,
    toPixel: (value) => first + (there(value) - low) * each,
    toValue: (pixel) => back(low + (pixel - first) / each),
  };
}

const LEAST_APART = 17; // pixels between the numbers of an axis

/** An even scale over a range, with ticks at multiples of its step. */
export function linearScale(
  range: { min: number; max: number; step: number },
  pixels: [number, number],
): Scale {
  const { min, max } = range;
  // in little room, every second or fifth number
  const apart = (Math.abs(pixels[1] - pixels[0]) * range.step) / (max - min);
  const step = range.step * ([1, 2, 5].find((times) => apart * times >= LEAST_APART) ?? 10);
  const ticks: Tick[] = [];
  const first = Math.ceil(min / step - 1e-9);
  for (let n = first; n * step <= max + step * 1e-6 && n < first + 200; n++) {
    const at = n * step;
    ticks.push({ at, label: formatTick(at, step), strong: false });
  }
  return scaleOf("linear", [min, max], pixels, ticks);
}

/** A logarithmic scale that holds [low, high], both above zero; a value of zero or less has no place on it. */
export function logScale(low: number, high: number, pixels: [number, number]): Scale {
  const first = Math.floor(Math.log10(low) + 1e-9);
  const last = Math.max(first + 1, Math.ceil(Math.log10(high) - 1e-9));
  const between = last - first <= 2 ? [1, 2, 5] : [1];
  const ticks: Tick[] = [];
  for (let power = first; power <= last; power++) {
    for (const factor of between) {
      const at = factor * 10 ** power;
      if (at <= 10 ** last) ticks.push({ at, label: formatTick(at, 10 ** power), strong: factor === 1 });
    }
  }
  return scaleOf("log", [10 ** first, 10 ** last], pixels, ticks, Math.log10, (at) => 10 ** at);
}

/** Milliseconds to pixels, with ticks at round calendar moments. */
export function timeScale(from: number, to: number, pixels: [number, number], words = ENGLISH): Scale {
  return scaleOf("time", [from, to], pixels, timeTicks(from, to, pixels[1] - pixels[0], words));
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** How a reader's language writes dates. days: of each month, with {d}; year_quarters: with {y}. */
export interface DateWords {
  months: string[];
  days: string[];
  quarters: string[];
  year_quarters: string[];
}

export const ENGLISH: DateWords = {
  months: MONTHS,
  days: MONTHS.map((month) => `{d} ${month}`),
  quarters: ["Q1", "Q2", "Q3", "Q4"],
  year_quarters: ["{y} Q1", "{y} Q2", "{y} Q3", "{y} Q4"],
};

const HOUR = 3_600_000;
export const DAY = 24 * HOUR;

/** Round limits and steps that hold [low, high], about `count` steps. */
export function niceRange(low: number, high: number, count = 6): { min: number; max: number; step: number } {
  if (!(high > low)) {
    const pad = Math.abs(low) * 0.1 || 1;
    return niceRange(low - pad, high + pad, count);
  }
  const rough = (high - low) / count;
  const size = 10 ** Math.floor(Math.log10(rough));
  const step = ([1, 2, 2.5, 3, 5, 10].find((factor) => factor * size >= rough) ?? 10) * size;
  return { min: Math.floor(low / step + 1e-9) * step, max: Math.ceil(high / step - 1e-9) * step, step };
}

// up to a thousand years: one date far from all others must not fill the axis with days
const MONTH_STEPS = [1, 2, 3, 6, 12, 24, 60, 120, 240, 600, 1_200, 2_400, 6_000, 12_000];

/** Ticks at round calendar moments between two times, at most about one per 72 pixels. */
export function timeTicks(from: number, to: number, width: number, words = ENGLISH): Tick[] {
  const most = Math.max(2, Math.floor(width / 72));
  const span = to - from;
  const months = span / (30.4 * DAY);
  const monthStep = MONTH_STEPS.find((step) => months / step <= most);
  if (months >= 2.5) return monthTicks(from, to, monthStep ?? 12_000, 0, words);
  const step = [HOUR, 3 * HOUR, 6 * HOUR, 12 * HOUR, DAY, 2 * DAY, 7 * DAY, 14 * DAY].find(
    (value) => span / value <= most,
  );
  return clockTicks(from, to, step ?? 28 * DAY, words);
}

/** Every `step` months, counted from the month `first` of a year, January being 0. */
export function monthTicks(from: number, to: number, step: number, first = 0, words = ENGLISH): Tick[] {
  const start = new Date(from);
  const ticks: Tick[] = [];
  let month = start.getUTCFullYear() * 12 + start.getUTCMonth();
  month = Math.floor((month - first) / step) * step + first;
  for (; ; month += step) {
    const at = Date.UTC(Math.floor(month / 12), month % 12, 1);
    if (at > to) break;
    if (at < from) continue;
    const january = month % 12 === 0;
    const label = january ? String(month / 12) : (words.months[month % 12] ?? "");
    ticks.push({ at, label, strong: january });
  }
  return ticks;
}

/** Every `step` milliseconds, weeks beginning on a Monday. */
export function clockTicks(from: number, to: number, step: number, words = ENGLISH): Tick[] {
  const ticks: Tick[] = [];
  // weeks begin on a Monday: the epoch was a Thursday
  const offset = step >= 7 * DAY ? 4 * DAY : 0;
  for (let at = Math.ceil((from - offset) / step) * step + offset; at <= to; at += step) {
    const date = new Date(at);
    const midnight = at % DAY === 0;
    const label = midnight
      ? (words.days[date.getUTCMonth()] ?? "").replace("{d}", String(date.getUTCDate()))
      : date.toISOString().slice(11, 16);
    ticks.push({ at, label, strong: midnight && (step < DAY || date.getUTCDate() === 1) });
  }
  return ticks;
}

/** Vertical places for labels so that none covers another, each as near its wish as can be. */
export function spread(wishes: number[], gap: number, top: number, bottom: number): number[] {
  const order = wishes.map((wish, n) => ({ wish, n })).sort((a, b) => a.wish - b.wish);
  const placed = order.map((wanted) => wanted.wish);
  for (let n = 1; n < placed.length; n++) placed[n] = Math.max(placed[n] ?? 0, (placed[n - 1] ?? 0) + gap);
  let limit = bottom;
  for (let n = placed.length - 1; n >= 0; n--) {
    placed[n] = Math.max(top, Math.min(placed[n] ?? 0, limit));
    limit = (placed[n] ?? 0) - gap;
  }
  const result = new Array<number>(wishes.length);
  order.forEach((label, n) => (result[label.n] = placed[n] ?? 0));
  return result;
}

/** The place of the first of some times that is not before another. */
export function lowerBound(times: number[], at: number): number {
  return bisectLeft(times, at);
}
