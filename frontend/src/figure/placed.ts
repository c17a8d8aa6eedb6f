/** What stands at places: stretches, lines held against, points picked out and events; on the bench and in pictures alike. */
import { label, LABEL, type Board } from "./board";
import { ring } from "./mark";
import { node, type Node } from "./nodes";
import { ROW, type Placing, type Spot } from "./placing";
import { straight, type Dot } from "./runs";
import { fitted, widthOf } from "./text";
import type { Flags, Points, Rule, Span } from "./types";

/** Nodes behind all lines and before them, and how many texts found no room. */
export interface Placed {
  behind: Node[];
  before: Node[];
  missing: number;
}

const NOTHING: Placed = { behind: [], before: [], missing: 0 };
const LEAST_NAME = 24; // pixels below which a name cut short says nothing

/** A stretch of time, shaded, with its name at its top. */
export function drawSpan(span: Span, name: string, board: Board, free: Placing): Placed {
  const { box, plane, palette } = board;
  const left = Math.max(box.left, plane.toX(span.first));
  const right = Math.min(box.right, plane.toX(span.last));
  if (right < box.left || left > box.right) return NOTHING;
  const shade = node("rect", {
    x: left,
    y: box.top,
    width: Math.max(2, right - left),
    height: box.bottom - box.top,
    fill: palette.wheat,
    "fill-opacity": 0.17,
  });
  const room = right - left - 5;
  if (!name || room < LEAST_NAME) return { ...NOTHING, behind: [shade] };
  const text = fitted(name, LABEL, room);
  const spots = Array.from({ length: 8 }, (_, n) => ({ left: left + 3, y: box.top + 2 + n * ROW }));
  const spot = free.choose(widthOf(text, LABEL), spots);
  return {
    behind: [shade],
    before: spot ? [label(text, spot.left, spot.y, palette.muted, board.ground)] : [],
    missing: spot ? 0 : 1,
  };
}

interface RuleStyle {
  ink: string;
  width: number;
  dash: string | undefined;
}

/** A line upright at a period with its name on top, or level at a value, named where lines end. */
export function drawRule(rule: Rule, name: string, style: RuleStyle, board: Board, free: Placing): Placed {
  if (rule.t !== null) return upright(rule.t, name, board, free);
  const { box, plane, ground } = board;
  if (rule.v === null || !plane.holds(rule.v)) return NOTHING;
  const y = plane.toY(rule.v);
  if (y < box.top - 1 || y > box.bottom + 1) return NOTHING;
  const level = (stroke: string, width: number, dash?: string) =>
    node("line", {
      x1: box.left,
      y1: y,
      x2: box.right,
      y2: y,
      stroke,
      "stroke-width": width,
      "stroke-dasharray": dash,
    });
  // on a round number it lies on a line of the grid: that one gives way
  return {
    ...NOTHING,
    before: [level(ground, style.width + 2), level(style.ink, style.width, style.dash)],
  };
}

function upright(at: number, name: string, { box, plane, palette, ground }: Board, free: Placing): Placed {
  if (at < plane.start || at > plane.end) return NOTHING;
  const x = plane.toX(at);
  const text = fitted(name, LABEL, box.right - box.left);
  const width = widthOf(text, LABEL);
  const spots = [x - width / 2, x + 3, x - width - 3]
    .map((left) => Math.max(box.left, Math.min(left, box.right - width)))
    .flatMap((left) => [
      { left, y: box.top - ROW },
      { left, y: box.top },
    ]);
  const spot = free.choose(width, spots);
  const line = { x1: x, y1: box.top, x2: x, y2: box.bottom };
  const ink = { stroke: palette.ink, "stroke-width": 1.1, "stroke-dasharray": "6 2" };
  return {
    behind: [],
    before: [
      node("line", { ...line, ...ink }),
      ...(spot ? [label(text, spot.left, spot.y, palette.ember, ground)] : []),
    ],
    missing: spot ? 0 : 1,
  };
}

/** Points picked out: a ring each, and its label where it covers nothing. */
export function drawPoints(points: Points, { plane, palette, ground }: Board, free: Placing): Placed {
  const ink = points.urgent ? palette.ember : palette.ink;
  let missing = 0;
  const before = points.t.flatMap((t, n) => {
    const v = points.v[n];
    if (t < plane.start || t > plane.end || typeof v !== "number" || !plane.holds(v)) return [];
    const at: Dot = [plane.toX(t), plane.toY(v)];
    const text = points.labels[n];
    if (!text) return [ring(at, ink)];
    const width = widthOf(text, LABEL);
    const spot = free.choose(width, spotsRound(at, width, points.beside[n] ?? "side"));
    if (!spot) missing += 1;
    return spot ? [ring(at, ink), label(text, spot.left, spot.y, ink, ground)] : [ring(at, ink)];
  });
  return { behind: [], before, missing };
}

const ABOVE = -21;
const BELOW = 7;
const BESIDE = -7;

/** Places for a text round a point, the wished one first; never so far that it could be another point's. */
function spotsRound([x, y]: Dot, width: number, wish: Points["beside"][number]): Spot[] {
  const [right, left, middle] = [x + 9, x - width - 10, x - width / 2];
  const side = [right, left].map((at) => ({ left: at, y: y + BESIDE }));
  const above = [middle, right, left].map((at) => ({ left: at, y: y + ABOVE }));
  const below = [middle, right, left].map((at) => ({ left: at, y: y + BELOW }));
  if (wish === "above") return [...above, ...side, ...below];
  return wish === "below" ? [...below, ...side, ...above] : [...side, ...above, ...below];
}

const POLE = 12;

/** Events at the foot of the chart: a pennant each, its stretch, and its name where there is room. */
export function drawFlags(flags: Flags, { box, plane, palette, ground }: Board, free: Placing): Placed {
  const { muted } = palette;
  let missing = 0;
  const before = flags.names.flatMap((name, n) => {
    const [first, last] = [flags.first[n] ?? 0, flags.last[n] ?? 0];
    if (last < plane.start || first > plane.end) return [];
    const left = Math.max(box.left, plane.toX(first));
    const right = Math.min(box.right, plane.toX(last));
    const foot = box.bottom;
    const pennant: Dot[] = [
      [left, foot],
      [left, foot - POLE],
      [left + 7, foot - POLE + 3],
      [left + 1, foot - POLE + 6],
      [left + 1, foot],
    ];
    const drawn = [node("path", { d: `${straight(pennant)}Z`, fill: muted })];
    const stretch = { x: left, y: foot - 2.5, width: right - left, height: 2.5 };
    if (right - left > 2) drawn.push(node("rect", { ...stretch, fill: muted, "fill-opacity": 0.7 }));
    const spot = free.choose(widthOf(name, LABEL), [{ left: left + 10, y: foot - POLE - 3 }]);
    if (spot) drawn.push(label(name, spot.left, spot.y, muted, ground));
    else missing += 1;
    return drawn;
  });
  return { behind: [], before, missing };
}
