/** Cutting a series into what is drawn solid, dashed or hollow, by the condition of its points. */
import type { FigureLine } from "../api/client";

export type Point = [number, number | null];

const INK = new Set(["m", "a", "f", "p"]);
/** Where the line is dashed: the number was not measured, or is not complete. */
const ESTIMATED = new Set(["f", "p"]);

function value(line: FigureLine, n: number): number | null {
  return INK.has(line.c[n] ?? "") ? (line.v[n] ?? null) : null;
}

/** Measured stretches; a gap wherever a point has no measured number. */
export function solidPoints(line: FigureLine): Point[] {
  return line.t.map((t, n) => [t, ESTIMATED.has(line.c[n] ?? "") ? null : value(line, n)]);
}

/** Stretches through filled points and across bridged ones, each from and to its neighbours. */
export function dashedPoints(line: FigureLine): Point[] {
  const points: Point[] = [];
  const push = (n: number) => {
    const v = value(line, n);
    const t = line.t[n];
    if (v !== null && t !== undefined) points.push([t, v]);
  };
  for (let n = 0; n < line.t.length; n++) {
    const code = line.c[n] ?? "";
    if (!ESTIMATED.has(code) && code !== "b") continue;
    let end = n;
    while (end + 1 < line.t.length && (ESTIMATED.has(line.c[end + 1] ?? "") || line.c[end + 1] === "b"))
      end++;
    if (n > 0) push(n - 1);
    for (let at = n; at <= end; at++) push(at);
    if (end + 1 < line.t.length) push(end + 1);
    points.push([line.t[end] ?? 0, null]);
    n = end;
  }
  return points;
}

/** Numbers with nothing on either side: no stroke would show them. */
export function lonePoints(line: FigureLine): Point[] {
  return line.t.flatMap((t, n): Point[] => {
    const v = value(line, n);
    if (v === null || ESTIMATED.has(line.c[n] ?? "")) return [];
    const alone = (at: number) => at < 0 || at >= line.t.length || value(line, at) === null;
    return alone(n - 1) && alone(n + 1) ? [[t, v]] : [];
  });
}

/** Points whose condition is one of `codes`. */
export function hollowPoints(line: FigureLine, codes: string): Point[] {
  return line.t.flatMap((t, n): Point[] => {
    const v = line.v[n];
    return codes.includes(line.c[n] ?? " ") && v !== null && v !== undefined ? [[t, v]] : [];
  });
}

/** The series as it was received. */
export function beforePoints(line: FigureLine): Point[] {
  return line.t.map((t, n) => [t, line.before?.[n] ?? null]);
}
