/** A rule: upright at a period with its name on top, or level at a value, named where lines end. */
import { colourOf, type Frame, type Panel } from "./frame";
import { label, widthOf, type Placing } from "./placing";
import type { Figure, Rule } from "./types";

export function drawRule(rule: Rule, panel: Panel, figure: Figure, frame: Frame, free: Placing): object[] {
  const { box } = panel;
  const width = widthOf(rule.name);
  if (rule.t !== null) {
    const [first, last] = panel.time.domain;
    if (rule.t < first || rule.t > last) return [];
    const x = panel.time.toPixel(rule.t);
    const left = Math.max(box.left, Math.min(x - width / 2, box.right - width));
    return [
      line(x, box.top, x, box.bottom, frame.palette.ink),
      label(rule.name, left, free.place(left, width, box.top - 14), frame.palette.ember, frame),
    ];
  }
  if (rule.v === null) return [];
  const y = panel.value.toPixel(rule.v);
  if (y < box.top - 1 || y > box.bottom + 1) return [];
  // on a round number it lies on a line of the grid: that one gives way
  const under = { stroke: frame.palette.card, lineWidth: 3, lineDash: [] };
  const over = line(box.left, y, box.right, y, colourOf(rule, figure, frame.palette));
  return [{ ...over, style: under }, over];
}

function line(x1: number, y1: number, x2: number, y2: number, stroke: string): object {
  return {
    type: "line",
    silent: true,
    z: 4,
    shape: { x1, y1, x2, y2 },
    style: { stroke, lineWidth: 1.2, lineDash: [6, 2] },
  };
}
