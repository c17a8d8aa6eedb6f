import type { Figure, FigureLine } from "../api/client";
import { lowerBound } from "../figure/scale";

/** Every period any line of the figure has, in order. */
export function periodsOf(figure: Figure): number[] {
  return [...new Set(figure.lines.flatMap((line) => line.t))].sort((a, b) => a - b);
}

export function nearestPeriod(periods: number[], time: number): number | undefined {
  const at = lowerBound(periods, time);
  const before = periods[at - 1];
  const after = periods[at];
  if (before === undefined) return after;
  if (after === undefined) return before;
  return time - before < after - time ? before : after;
}

export const CONDITIONS: Record<string, string> = {
  m: "measured",
  o: "open",
  b: "bridged",
  f: "filled",
  s: "set aside",
  t: "set aside",
  a: "adjusted",
  p: "provisional",
  j: "projected",
  r: "",
  q: "rests on provisional",
};
export const RECEIVED: Record<string, string> = { m: "measured", b: "blank", a: "absent", u: "unreadable" };

export interface LineReading {
  line: FigureLine;
  value: number | null;
  before: number | null;
  condition: string;
  received: string;
  limits: { level: number; lower: number | null; upper: number | null }[];
}

/** What every line of the figure says at a period. */
export function readingsAt(figure: Figure, period: number): LineReading[] {
  return figure.lines.flatMap((line): LineReading[] => {
    const n = lowerBound(line.t, period);
    if (line.t[n] !== period) return [];
    return [
      {
        line,
        value: line.v[n] ?? null,
        before: line.before?.[n] ?? null,
        condition: CONDITIONS[line.c[n] ?? ""] ?? "",
        received: RECEIVED[line.r?.[n] ?? ""] ?? "",
        limits: (line.limits ?? []).map((one) => ({
          level: one.level,
          lower: one.lower[n] ?? null,
          upper: one.upper[n] ?? null,
        })),
      },
    ];
  });
}
