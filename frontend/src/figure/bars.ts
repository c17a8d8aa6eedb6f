/** Bars from zero, hatched where they are not measured. */
import { colourOf, type Frame } from "./frame";
import type { Bars, Figure } from "./types";

const WIDEST = 18;

export function drawBars(bars: Bars, figure: Figure, frame: Frame): object {
  const colour = colourOf(bars, figure, frame.palette);
  const measured = bars.rests === "measured";
  return {
    type: "bar",
    silent: true,
    clip: true,
    z: 2,
    barMaxWidth: WIDEST,
    data: bars.t.map((at, n) => [at, bars.v[n] ?? null]),
    itemStyle: measured
      ? { color: colour, opacity: 0.55 }
      : { color: colour, opacity: 0.25, borderColor: colour, borderType: "dashed" },
  };
}
