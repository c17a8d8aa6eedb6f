/** What stands at places: lines held against, stretches, marked points and events. */
import { placing } from "../../figure/placing";
import type { Flags, Points, Rule, Span } from "../../figure/types";
import type { ValueAxis } from "./axes";
import { leftOut, node, textNode, type Node } from "../../figure/nodes";
import { straight, type Dot } from "../../figure/runs";
import { ROW } from "./points";
import { halo, SMALL, within, type Dressed, type Panel, type Sheet } from "./sheet";
import { dashOf } from "./strokes";
import { fitted, widthOf } from "../../figure/text";

/** Upright at a period with its name on top, or level at a value. */
export function drawRule(
  one: Dressed<Rule>,
  panel: Panel,
  sheet: Sheet,
  axis: ValueAxis,
  ink: string,
): Node[] {
  const { box } = panel;
  if (one.t !== null) {
    if (!within(one.t, sheet)) return [];
    const x = sheet.toX(one.t);
    const text = fitted(one.look.name, SMALL, box.right - box.left);
    const left = Math.max(box.left, Math.min(x - widthOf(text, SMALL) / 2, box.right - widthOf(text, SMALL)));
    return [
      node("line", {
        x1: x,
        y1: box.top,
        x2: x,
        y2: box.bottom,
        stroke: sheet.palette.ink,
        "stroke-width": 1,
        "stroke-dasharray": "6 2",
      }),
      textNode(text, {
        x: left,
        y: box.top - 3,
        "font-size": SMALL,
        fill: sheet.palette.ember,
        ...halo(sheet),
      }),
    ];
  }
  if (one.v === null || !axis.holds(one.v)) return [];
  const y = axis.toY(one.v);
  if (y < box.top - 1 || y > box.bottom + 1) return [];
  return [
    // on a round number it lies on a line of the grid: that one gives way
    node("line", {
      x1: box.left,
      y1: y,
      x2: box.right,
      y2: y,
      stroke: sheet.ground,
      "stroke-width": one.look.weight + 2,
    }),
    node("line", {
      x1: box.left,
      y1: y,
      x2: box.right,
      y2: y,
      stroke: ink,
      "stroke-width": one.look.weight,
      "stroke-dasharray": dashOf(one.look.dash, one.look.weight),
    }),
  ];
}

export function drawSpan(one: Dressed<Span>, panel: Panel, sheet: Sheet): Node[] {
  const { box } = panel;
  const left = Math.max(box.left, sheet.toX(one.first));
  const right = Math.min(box.right, sheet.toX(one.last));
  if (right < box.left || left > box.right) return [];
  const room = right - left - 4;
  return [
    node("rect", {
      x: left,
      y: box.top,
      width: Math.max(2, right - left),
      height: box.bottom - box.top,
      fill: sheet.palette.wheat,
      "fill-opacity": 0.18,
    }),
    ...(one.look.name && room > 24
      ? [
          textNode(fitted(one.look.name, SMALL, room), {
            x: left + 3,
            y: box.top + 12,
            "font-size": SMALL,
            fill: sheet.palette.muted,
            ...halo(sheet),
          }),
        ]
      : []),
  ];
}

/** Marked points: a ring each, and its label where it covers no other. */
export function drawMarks(one: Dressed<Points>, sheet: Sheet, axis: ValueAxis): Node[] {
  const ink = one.urgent ? sheet.palette.ember : sheet.palette.ink;
  const free = placing(ROW);
  let missing = 0;
  const drawn = one.t.flatMap((t, n) => {
    const v = one.v[n];
    if (!within(t, sheet) || v === null || v === undefined || !axis.holds(v)) return [];
    const [x, y] = [sheet.toX(t), axis.toY(v)];
    const ring = node("circle", { cx: x, cy: y, r: 4.6, fill: "none", stroke: ink, "stroke-width": 1.4 });
    const text = one.labels[n];
    if (!text) return [ring];
    const width = widthOf(text, SMALL);
    const left = x + width + 12 > sheet.width ? x - width - 8 : x + 8;
    const lift = { side: 4, above: -9, below: 18 }[one.beside[n] ?? "side"] ?? 4;
    const top = y + lift;
    if (!free.isFree(left, width, top)) {
      missing += 1;
      return [ring];
    }
    free.place(left, width, top);
    return [ring, textNode(text, { x: left, y: top, "font-size": SMALL, fill: ink, ...halo(sheet) })];
  });
  return [...drawn, ...leftOut(missing)];
}

export function drawFlags(one: Dressed<Flags>, panel: Panel, sheet: Sheet): Node[] {
  const { box } = panel;
  const ink = sheet.palette.muted;
  let free = -Infinity;
  let missing = 0;
  const flags = one.names.flatMap((name, n) => {
    const [first, last] = [one.first[n] ?? 0, one.last[n] ?? 0];
    if (last < sheet.time.start || first > sheet.time.end) return [];
    const left = Math.max(box.left, sheet.toX(first));
    const right = Math.min(box.right, sheet.toX(last));
    const foot = box.bottom;
    const pennant: Dot[] = [
      [left, foot],
      [left, foot - 12],
      [left + 7, foot - 9],
      [left + 1, foot - 6],
      [left + 1, foot],
    ];
    const drawn = [node("path", { d: `${straight(pennant)}Z`, fill: ink })];
    if (right - left > 2)
      drawn.push(
        node("rect", {
          x: left,
          y: foot - 2.5,
          width: right - left,
          height: 2.5,
          fill: ink,
          "fill-opacity": 0.7,
        }),
      );
    const width = widthOf(name, SMALL);
    if (left > free && left + 10 + width < box.right) {
      free = left + 14 + width;
      drawn.push(
        textNode(name, { x: left + 10, y: foot - 6, "font-size": SMALL, fill: ink, ...halo(sheet) }),
      );
    } else missing += 1;
    return drawn;
  });
  return [...flags, ...leftOut(missing)];
}
