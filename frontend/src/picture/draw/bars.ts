/** Bars from zero, hatched where they are not measured. */
import type { ValueAxis } from "./axes";
import { hatchOf } from "../../figure/hatch";
import { node, type Node } from "../../figure/nodes";
import { within, type OverTime, type Sheet } from "./sheet";

const WIDEST_BAR = 22;

export function drawBars(one: OverTime, sheet: Sheet, axis: ValueAxis, ink: string): Node[] {
  const { t, v } = one;
  const xs = t.map(sheet.toX);
  const steps = xs.slice(1).map((x, n) => x - (xs[n] ?? x));
  const step = Math.min(...steps.filter((width) => width > 0), Infinity);
  const width = Math.max(0.6, Math.min(WIDEST_BAR, (Number.isFinite(step) ? step : WIDEST_BAR) * 0.72));
  const floor = axis.toY(axis.holds(0) ? Math.max(axis.min, Math.min(0, axis.max)) : axis.min);
  const measured = !("rests" in one) || one.rests === "measured";
  return t.flatMap((at, n) => {
    const value = v[n];
    if (!within(at, sheet) || value === null || value === undefined || !axis.holds(value)) return [];
    const code = "c" in one ? (one.c[n] ?? "m") : "m";
    if ("st".includes(code)) return [];
    const y = axis.toY(value);
    const sure = measured && "ma".includes(code);
    return [
      node("rect", {
        x: (xs[n] ?? 0) - width / 2,
        y: Math.min(y, floor),
        width,
        height: Math.max(0.4, Math.abs(floor - y)),
        fill: sure ? ink : hatchOf(code === "p" ? sheet.palette.wheat : ink),
        ...(sure ? { "fill-opacity": 0.72 } : { stroke: ink, "stroke-width": 0.7, "stroke-opacity": 0.6 }),
      }),
    ];
  });
}
