/** Points picked out: a ring each, and its label where it covers no other. */
import type { Frame, Panel } from "./frame";
import { label, widthOf, type Placing } from "./placing";
import { shapesOf, type Figure, type Points } from "./types";

const LIFT = { side: -7, above: -20, below: 7 };

export function drawPoints(
  points: Points,
  panel: Panel,
  figure: Figure,
  frame: Frame,
  free: Placing,
): object[] {
  const { box, time, value } = panel;
  const colour = points.urgent ? frame.palette.ember : frame.palette.ink;
  const rules = shapesOf(figure, "rule", points.series).flatMap((one) =>
    one.t === null ? [] : [time.toPixel(one.t)],
  );
  const crossed = (left: number, width: number) => rules.some((at) => left < at + 3 && left + width > at - 3);
  return points.t.flatMap((t, n) => {
    const v = points.v[n];
    if (t < frame.from || t > frame.to || v === null || v === undefined) return [];
    const [x, y] = [time.toPixel(t), value.toPixel(v)];
    const ring = {
      type: "circle",
      silent: true,
      shape: { cx: x, cy: y, r: 5 },
      style: { stroke: colour, fill: "none", lineWidth: 1.4 },
    };
    const text = points.labels[n];
    if (!text) return [ring];
    const width = widthOf(text);
    const onLeft = x + width + 14 > box.right || (crossed(x + 9, width) && !crossed(x - width - 10, width));
    const left = onLeft ? x - width - 10 : x + 9;
    const wish = y + LIFT[points.beside[n] ?? "side"];
    const at = free.place(left, width, wish);
    const told = label(text, left, at, colour, frame);
    // a label that had to make room is led back to its point
    return Math.abs(at - wish) > 10
      ? [ring, leader(x, y, onLeft ? left + width : left, at + 7, colour), told]
      : [ring, told];
  });
}

function leader(x1: number, y1: number, x2: number, y2: number, stroke: string): object {
  const away = Math.sign(y2 - y1) * 5;
  return {
    type: "line",
    silent: true,
    shape: { x1, y1: y1 + away, x2, y2 },
    style: { stroke, lineWidth: 0.8, opacity: 0.6 },
  };
}
