/** Cutting a series into what is drawn solid, dashed, striped or hollow, by the condition of its points. */
import type { Curve, Series } from "./types";

export type Point = [number, number | null];

/** Conditions whose number lies on the line. */
const INK = "mafp";
/** Drawn across, adding nothing: bridged, or set aside and bridged. */
const ACROSS = "bt";

function value(line: Series, n: number): number | null {
  return INK.includes(line.c[n] ?? " ") ? (line.v[n] ?? null) : null;
}

/** Measured stretches; a gap wherever a point has no such number. */
export function solidPoints(line: Series): Point[] {
  return line.t.map((t, n) => [t, line.c[n] === "m" ? value(line, n) : null]);
}

/** Stretches through filled points and across bridged ones, each from and to its neighbours. */
export function dashedPoints(line: Series): Point[] {
  return stretches(line, `f${ACROSS}`, true);
}

/** Stretches of adjusted points, from and to their neighbours. */
export function adjustedPoints(line: Series): Point[] {
  return stretches(line, "a", true);
}

/** Stretches of provisional points, continuous with the point before each. */
export function provisionalPoints(line: Series): Point[] {
  return stretches(line, "p", false);
}

type Rest = "whole" | "pale" | "faded";

/** The points of a curve that rest on all they should, on less, or on what is provisional; each stretch is
 * continuous with the point before it. */
export function curvePoints(curve: Curve, wanted: Rest): Point[] {
  const [pale, faded] = [new Set(curve.pale), new Set(curve.faded)];
  if (wanted === "faded" ? !faded.size : wanted === "pale" && !pale.size) return [];
  const rest = (n: number): Rest => (faded.has(n) ? "faded" : pale.has(n) ? "pale" : "whole");
  return curve.t.map((t, n) => {
    const mine =
      rest(n) === wanted || (wanted !== "whole" && n + 1 < curve.t.length && rest(n + 1) === wanted);
    return [t, mine ? (curve.v[n] ?? null) : null];
  });
}

function stretches(line: Series, codes: string, toNext: boolean): Point[] {
  const points: Point[] = [];
  const push = (n: number) => {
    const v = value(line, n);
    const t = line.t[n];
    if (v !== null && t !== undefined) points.push([t, v]);
  };
  const mine = (n: number) => codes.includes(line.c[n] ?? " ");
  for (let n = 0; n < line.t.length; n++) {
    if (!mine(n)) continue;
    let end = n;
    while (end + 1 < line.t.length && mine(end + 1)) end++;
    if (n > 0) push(n - 1);
    for (let at = n; at <= end; at++) push(at);
    if (toNext && end + 1 < line.t.length) push(end + 1);
    // the break stands where the stroke ends: a step would run back to it
    points.push([points.at(-1)?.[0] ?? line.t[end] ?? 0, null]);
    n = end;
  }
  return points;
}

/** Numbers with nothing on either side: no stroke would show them. */
export function lonePoints(line: Series): Point[] {
  return line.t.flatMap((t, n): Point[] => {
    const v = value(line, n);
    if (v === null || "fp".includes(line.c[n] ?? " ")) return [];
    const alone = (at: number) => at < 0 || at >= line.t.length || value(line, at) === null;
    return alone(n - 1) && alone(n + 1) ? [[t, v]] : [];
  });
}

/** Points whose condition is one of `codes`, in runs of at most `longest`. */
export function hollowPoints(line: Series, codes: string, longest = Infinity): Point[] {
  const points: Point[] = [];
  for (let n = 0; n < line.t.length; n++) {
    if (!codes.includes(line.c[n] ?? " ")) continue;
    let end = n;
    while (end + 1 < line.t.length && codes.includes(line.c[end + 1] ?? " ")) end++;
    if (end - n < longest) points.push(...codedPoints(line, codes, n, end + 1).filter(([, v]) => v !== null));
    n = end;
  }
  return points;
}

/** Values of the points whose code is one of `codes`, null for the others. */
export function codedPoints(line: Series, codes: string, from = 0, to = line.t.length): Point[] {
  return line.t
    .slice(from, to)
    .map((t, n) => [t, codes.includes(line.c[from + n] ?? " ") ? (line.v[from + n] ?? null) : null]);
}

/** The series as it was received. */
export function beforePoints(line: Series): Point[] {
  return line.t.map((t, n) => [t, line.before[n] ?? null]);
}
