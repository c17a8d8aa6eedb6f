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
    return [ring, label(text, left, free.place(left, width, wish), colour, frame)];
  });
}
