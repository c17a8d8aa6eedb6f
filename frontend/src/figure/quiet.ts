/** What cannot be told apart at the present zoom is drawn as one quiet shape. */
import { lowerBound } from "./scale";
import type { Area } from "./types";

const CLOSE = 4; // pixels between points below which their ups and downs are a thicket
const BUCKET = 12; // pixels that are drawn as one

type Value = number | null;

/** The starts of the few pixels that are drawn as one; undefined where points are far enough apart. */
function buckets(t: number[], from: number, to: number, width: number) {
  const first = lowerBound(t, from);
  const end = lowerBound(t, to + 1);
  const span = ((t[end - 1] ?? 0) - (t[first] ?? 0)) / (to - from);
  if (end - first < 8 || (span * width) / (end - first) >= CLOSE) return undefined;
  const size = Math.max(2, Math.round(((end - first) * BUCKET) / (span * width)));
  const starts: number[] = [];
  for (let at = first; at < end; at += size) starts.push(at);
  const over = <T>(values: T[], pick: (part: T[]) => T) =>
    starts.map((at) => pick(values.slice(at, Math.min(end, at + size))));
  return { times: [t[first] ?? from, ...over(t, middle).slice(1, -1), t[end - 1] ?? to], over };
}

/** An area as it is drawn in a window: between the least and the greatest of its edges over each few pixels. */
export function quietArea(area: Area, from: number, to: number, width: number): Area {
  const found = buckets(area.t, from, to, width);
  if (!found) return area;
  return {
    ...area,
    t: found.times,
    lower: found.over(area.lower, (part) => edge(part, Math.min)),
    upper: found.over(area.upper, (part) => edge(part, Math.max)),
  };
}

function middle(part: number[]): number {
  return part[part.length >> 1] ?? 0;
}

function known(part: Value[]): number[] {
  return part.filter((value) => value !== null);
}

function edge(part: Value[], pick: (...values: number[]) => number): Value {
  const values = known(part);
  return values.length ? pick(...values) : null;
}
