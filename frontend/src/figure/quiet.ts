/** What cannot be told apart at the present zoom is drawn as one quiet shape. */
import type { FigureLine } from "../api/client";
import { lowerBound } from "./scale";

const CLOSE = 4; // pixels between points below which their ups and downs are a thicket
const BUCKET = 12; // pixels that are drawn as one

/**
 * A line with limits as it is drawn in a window: itself, or, where its points stand too close, the middle of
 * each few pixels between the least and the greatest of their limits.
 */
export function quietLine(line: FigureLine, from: number, to: number, width: number): FigureLine {
  const first = lowerBound(line.t, from);
  const end = lowerBound(line.t, to + 1);
  const span = ((line.t[end - 1] ?? 0) - (line.t[first] ?? 0)) / (to - from);
  if (end - first < 8 || (span * width) / (end - first) >= CLOSE) return line;
  const size = Math.max(2, Math.round(((end - first) * BUCKET) / (span * width)));
  const starts: number[] = [];
  for (let at = first; at < end; at += size) starts.push(at);
  const over = <T>(values: T[], pick: (part: T[]) => T) =>
    starts.map((at) => pick(values.slice(at, Math.min(end, at + size))));
  return {
    ...line,
    t: [line.t[first] ?? from, ...over(line.t, middle).slice(1, -1), line.t[end - 1] ?? to],
    v: over(line.v, mean),
    c: starts.map((at) => line.c[at] ?? "").join(""),
    limits: (line.limits ?? []).map((limits) => ({
      level: limits.level,
      lower: over(limits.lower, (part) => edge(part, Math.min)),
      upper: over(limits.upper, (part) => edge(part, Math.max)),
    })),
  };
}

type Number_ = number | null;

function middle(part: number[]): number {
  return part[part.length >> 1] ?? 0;
}

function known(part: Number_[]): number[] {
  return part.filter((value) => value !== null);
}

function mean(part: Number_[]): Number_ {
  const values = known(part);
  return values.length ? values.reduce((sum, value) => sum + value, 0) / values.length : null;
}

function edge(part: Number_[], pick: (...values: number[]) => number): Number_ {
  const values = known(part);
  return values.length ? pick(...values) : null;
}
