/** Bars from zero, hatched where they are not measured; those of several beside each other. */
import { colourOf, type Frame, type Panel } from "./frame";
import { hatchOf } from "./hatch";
import type { Drawn } from "./ink";
import { node } from "./nodes";
import type { Bars, Figure } from "./types";

const WIDEST = 18;
const SHARE = 0.72; // of the room between two periods

export function drawBars(bars: Bars, panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const { time, value, box } = panel;
  const colour = colourOf(bars, figure, frame.palette);
  const beside = panel.shapes.filter((one) => one.shape === "bars");
  const place = beside.findIndex((one) => one.id === bars.id);
  const xs = bars.t.map((at) => time.toPixel(at));
  const steps = xs.slice(1).map((x, n) => x - (xs[n] ?? x));
  const step = Math.min(WIDEST / SHARE, ...steps.filter((width) => width > 0));
  const width = Math.max(0.6, (step * SHARE) / beside.length);
  const left = (place - beside.length / 2) * width;
  const floor = Math.min(
    box.bottom,
    Math.max(box.top, value.toPixel(value.kind === "log" ? value.domain[0] : 0)),
  );
  const ink =
    bars.rests === "measured"
      ? { fill: colour, "fill-opacity": 0.55 }
      : { fill: hatchOf(colour), stroke: colour, "stroke-width": 0.7, "stroke-opacity": 0.6 };
  return bars.t.flatMap((at, n) => {
    const height = bars.v[n];
    if (at < frame.from || at > frame.to || height === null || height === undefined) return [];
    const y = value.toPixel(height);
    const shape = {
      x: (xs[n] ?? 0) + left,
      y: Math.min(y, floor),
      width,
      height: Math.max(0.4, Math.abs(floor - y)),
    };
    return [{ z: 2, node: node("rect", { ...shape, ...ink }) }];
  });
}
