/** A rule: upright at a period with its name on top, or level at a value, named where lines end. */
import { colourOf, type Frame, type Panel } from "./frame";
import type { Drawn } from "./ink";
import { node, type Node } from "./nodes";
import { label, widthOf, type Placing } from "./placing";
import type { Figure, Rule } from "./types";

const NOTHING: { drawn: Drawn[]; missing: number } = { drawn: [], missing: 0 };

/** The rule, and whether its name found no room. */
export function drawRule(
  rule: Rule,
  panel: Panel,
  figure: Figure,
  frame: Frame,
  free: Placing,
): { drawn: Drawn[]; missing: number } {
  const { box } = panel;
  const width = widthOf(rule.name);
  if (rule.t !== null) {
    const [first, last] = panel.time.domain;
    if (rule.t < first || rule.t > last) return NOTHING;
    const x = panel.time.toPixel(rule.t);
    const spots = [x - width / 2, x + 3, x - width - 3]
      .map((left) => Math.max(box.left, Math.min(left, box.right - width)))
      .flatMap((left) => [
        { left, y: box.top - 14 },
        { left, y: box.top },
      ]);
    const spot = free.choose(width, spots);
    return {
      drawn: [
        line(x, box.top, x, box.bottom, { stroke: frame.palette.ink }),
        ...(spot ? [label(rule.name, spot.left, spot.y, frame.palette.ember, frame)] : []),
      ],
      missing: spot ? 0 : 1,
    };
  }
  if (rule.v === null) return NOTHING;
  const y = panel.value.toPixel(rule.v);
  if (y < box.top - 1 || y > box.bottom + 1) return NOTHING;
  // on a round number it lies on a line of the grid: that one gives way
  const under = { stroke: frame.palette.card, "stroke-width": 3, "stroke-dasharray": undefined };
  const ends = [box.left, y, box.right, y] as const;
  return {
    drawn: [line(...ends, under), line(...ends, { stroke: colourOf(rule, figure, frame.palette) })],
    missing: 0,
  };
}

function line(x1: number, y1: number, x2: number, y2: number, ink: Node["attributes"]): Drawn {
  return {
    z: 4,
    node: node("line", { x1, y1, x2, y2, "stroke-width": 1.2, "stroke-dasharray": "6 2", ...ink }),
  };
}
