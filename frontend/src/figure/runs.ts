/** Paths through points in pixels: straight, in steps, or as a curve that never overshoots. */
import { tidy } from "./nodes";

export type Dot = [number, number];

/** Runs of dots between gaps. */
export function runsOf(dots: (Dot | undefined)[]): Dot[][] {
  const runs: Dot[][] = [[]];
  for (const dot of dots) {
    if (dot) runs.at(-1)?.push(dot);
    else if (runs.at(-1)?.length) runs.push([]);
  }
  return runs.filter((run) => run.length);
}

/** The corners of a run as its figure has it drawn. */
export function cornersOf(run: Dot[], shape: string): Dot[] {
  const share = { held: 1, early: 0, mid: 0.5 }[shape];
  if (share === undefined) return run;
  return run.flatMap((dot, n): Dot[] => {
    const last = run[n - 1];
    if (!last) return [dot];
    const turn = last[0] + share * (dot[0] - last[0]);
    return [[turn, last[1]], [turn, dot[1]], dot];
  });
}

export function pathOf(dots: (Dot | undefined)[], shape: string): string {
  return runsOf(dots)
    .filter((run) => run.length > 1)
    .map((run) => (shape === "curve" ? smooth(run) : straight(cornersOf(run, shape))))
    .join("");
}

export function straight(run: Dot[]): string {
  return run.map(([x, y], n) => `${n ? "L" : "M"}${tidy(x)},${tidy(y)}`).join("");
}

/** Monotone cubic pieces (Fritsch and Carlson, 1980). */
export function smooth(run: Dot[]): string {
  const n = run.length;
  if (n < 3) return straight(run);
  const x = run.map((dot) => dot[0]);
  const y = run.map((dot) => dot[1]);
  const slope = (k: number) => {
    const width = (x[k + 1] ?? 0) - (x[k] ?? 0);
    return width ? ((y[k + 1] ?? 0) - (y[k] ?? 0)) / width : 0;
  };
  const steep = x.map((_, k) => {
    if (k === 0) return slope(0);
    if (k === n - 1) return slope(n - 2);
    const [before, after] = [slope(k - 1), slope(k)];
    return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
  });
  let path = `M${tidy(x[0] ?? 0)},${tidy(y[0] ?? 0)}`;
  for (let k = 0; k < n - 1; k++) {
    const third = ((x[k + 1] ?? 0) - (x[k] ?? 0)) / 3;
    const points = [
      [(x[k] ?? 0) + third, (y[k] ?? 0) + third * (steep[k] ?? 0)],
      [(x[k + 1] ?? 0) - third, (y[k + 1] ?? 0) - third * (steep[k + 1] ?? 0)],
      [x[k + 1] ?? 0, y[k + 1] ?? 0],
    ];
    path += `C${points.map(([a, b]) => `${tidy(a ?? 0)},${tidy(b ?? 0)}`).join(" ")}`;
  }
  return path;
}
