/** A stretch of time, shaded behind everything, with its name on top. */
import type { Frame, Panel } from "./frame";
import type { Drawn } from "./ink";
import { node } from "./nodes";
import { label, widthOf, type Placing } from "./placing";
import type { Span } from "./types";

export function drawSpan(span: Span, panel: Panel, frame: Frame, free: Placing): Drawn[] {
  const { box, time } = panel;
  const left = Math.max(box.left, time.toPixel(span.first));
  const right = Math.min(box.right, time.toPixel(span.last));
  if (right < box.left || left > box.right) return [];
  return [
    {
      z: -1,
      node: node("rect", {
        x: left,
        y: box.top,
        width: Math.max(2, right - left),
        height: box.bottom - box.top,
        fill: frame.palette.wheat,
        "fill-opacity": 0.16,
      }),
    },
    ...(span.name && right - left > widthOf(span.name)
      ? [
          label(
            span.name,
            left + 2,
            free.place(left, widthOf(span.name), box.top + 2),
            frame.palette.muted,
            frame,
          ),
        ]
      : []),
  ];
}
