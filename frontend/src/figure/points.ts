/** Points picked out: a ring each, and its label where it covers no other. */
import type { Frame, Panel } from "./frame";
import type { Drawn } from "./ink";
import { node } from "./nodes";
import { label, widthOf, type Placing, type Spot } from "./placing";
import type { Points } from "./types";

const ABOVE = -21;
const BELOW = 7;
const BESIDE = -7;

/** The rings, and how many of their labels found no room. */
export function drawPoints(
  points: Points,
  panel: Panel,
  frame: Frame,
  free: Placing,
): { drawn: Drawn[]; missing: number } {
  const { box, time, value } = panel;
  const colour = points.urgent ? frame.palette.ember : frame.palette.ink;
  let missing = 0;
  const drawn = points.t.flatMap((t, n) => {
    const v = points.v[n];
    if (t < frame.from || t > frame.to || v === null || v === undefined) return [];
    const [x, y] = [time.toPixel(t), value.toPixel(v)];
    const ring: Drawn = {
      z: 7,
      node: node("circle", { cx: x, cy: y, r: 5, fill: "none", stroke: colour, "stroke-width": 1.4 }),
    };
    const text = points.labels[n];
    if (!text) return [ring];
    const width = widthOf(text);
    const spot = free.choose(
      width,
      spotsRound(x, y, width, points.beside[n] ?? "side").filter(
        (one) =>
          one.left >= box.left &&
          one.left + width <= box.right &&
          one.y > box.top - 20 &&
          one.y < box.bottom - 14,
      ),
    );
    if (!spot) missing += 1;
    return spot ? [ring, label(text, spot.left, spot.y, colour, frame)] : [ring];
  });
  return { drawn, missing };
}

/** Places for a text round a point, the wished one first; never so far that it could be another point's. */
export function spotsRound(x: number, y: number, width: number, wish: Points["beside"][number]): Spot[] {
  const [right, left, middle] = [x + 9, x - width - 10, x - width / 2];
  const side = [right, left].map((at) => ({ left: at, y: y + BESIDE }));
  const above = [middle, right, left].map((at) => ({ left: at, y: y + ABOVE }));
  const below = [middle, right, left].map((at) => ({ left: at, y: y + BELOW }));
  if (wish === "above") return [...above, ...side, ...below];
  return wish === "below" ? [...below, ...side, ...above] : [...side, ...above, ...below];
}
