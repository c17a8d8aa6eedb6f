/** Events at the foot of the chart: a pennant each, its stretch, and its name where there is room. */
import type { Frame, Panel } from "./frame";
import { widthOf, type Placing } from "./placing";
import type { Flags } from "./types";

const POLE = 12;

export function drawFlags(flags: Flags, panel: Panel, frame: Frame, free: Placing): object[] {
  const { box, time } = panel;
  const { muted, paper } = frame.palette;
  return flags.names.flatMap((name, n) => {
    const [first, last] = [flags.first[n] ?? 0, flags.last[n] ?? 0];
    if (last < frame.from || first > frame.to) return [];
    const left = Math.max(box.left, time.toPixel(first));
    const right = Math.min(box.right, time.toPixel(last));
    const foot = box.bottom;
    const drawn: object[] = [
      {
        type: "polygon",
        silent: true,
        z: 4,
        shape: {
          points: [
            [left, foot],
            [left, foot - POLE],
            [left + 7, foot - POLE + 3],
            [left + 1, foot - POLE + 6],
            [left + 1, foot],
          ],
        },
        style: { fill: muted },
      },
    ];
    if (right - left > 2)
      drawn.push({
        type: "rect",
        silent: true,
        z: 4,
        shape: { x: left, y: foot - 2.5, width: right - left, height: 2.5 },
        style: { fill: muted, opacity: 0.7 },
      });
    const width = widthOf(name) * 0.92;
    const wish = foot - POLE - 3;
    if (left + 10 + width < box.right && free.isFree(left + 9, width, wish)) {
      free.place(left + 9, width, wish);
      drawn.push({
        type: "text",
        silent: true,
        z: 4,
        x: left + 10,
        y: wish,
        style: { text: name, fill: muted, font: `400 11.5px ${frame.font}`, stroke: paper, lineWidth: 3 },
      });
    }
    return drawn;
  });
}
