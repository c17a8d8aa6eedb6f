/** Events at the foot of the chart: a pennant each, its stretch, and its name where there is room. */
import type { Frame, Panel } from "./frame";
import type { Drawn } from "./ink";
import { node } from "./nodes";
import { label, widthOf, type Placing } from "./placing";
import type { Flags } from "./types";

const POLE = 12;

export function drawFlags(flags: Flags, panel: Panel, frame: Frame, free: Placing): Drawn[] {
  const { box, time } = panel;
  const { muted } = frame.palette;
  return flags.names.flatMap((name, n) => {
    const [first, last] = [flags.first[n] ?? 0, flags.last[n] ?? 0];
    if (last < frame.from || first > frame.to) return [];
    const left = Math.max(box.left, time.toPixel(first));
    const right = Math.min(box.right, time.toPixel(last));
    const foot = box.bottom;
    const pennant = `M${left},${foot}V${foot - POLE}L${left + 7},${foot - POLE + 3}L${left + 1},${foot - POLE + 6}V${foot}Z`;
    const drawn: Drawn[] = [{ z: 4, node: node("path", { d: pennant, fill: muted }) }];
    if (right - left > 2) {
      const stretch = { x: left, y: foot - 2.5, width: right - left, height: 2.5 };
      drawn.push({ z: 4, node: node("rect", { ...stretch, fill: muted, "fill-opacity": 0.7 }) });
    }
    const width = widthOf(name) * 0.92;
    const wish = foot - POLE - 3;
    if (left + 10 + width < box.right && free.isFree(left + 9, width, wish)) {
      free.place(left + 9, width, wish);
      drawn.push(label(name, left + 10, wish, muted, frame, 11.5));
    }
    return drawn;
  });
}
