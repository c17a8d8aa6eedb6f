/** A figure description to the nodes that the bench shows, in pixels. Pure: no DOM, no React; painted on a canvas or written
 * as SVG. */
import { drawArea } from "./area";
import { drawBars } from "./bars";
import { crossing, type Run } from "./crossing";
import { drawCurve } from "./curve";
import { drawFlags } from "./flags";
import { colourOf, panelsOf, plotBox, type Frame, type Panel } from "./frame";
import { hatchDefinitions } from "./hatch";
import type { Drawn } from "./ink";
import { axisName, endLabels } from "./labels";
import { node, type Node } from "./nodes";
import { label, placing, widthOf, written } from "./placing";
import { drawPoints } from "./points";
import { drawRule } from "./rule";
import { drawSeries } from "./series";
import { drawSpan } from "./span";
import { widthOf as textWidth } from "./text";
import type { Figure } from "./types";

const RING = 5;
const TICK_SIZE = 12.5; // of the numbers and dates at the axes
const OVER = 2; // pixels that a stroke may reach beyond the plot: half its width on the edge

/** All nodes of a figure, from the back to the front, with the definitions they refer to. */
export function sceneOf(figure: Figure, frame: Frame): Node[] {
  const panels = panelsOf(figure, frame);
  const last = panels.length - 1;
  const drawn = panels.flatMap((panel, n) => {
    const clip = `plot-${n}`;
    const { left, right, top, bottom } = panel.box;
    const room = { x: left, y: top - OVER, width: right - left, height: bottom - top + 2 * OVER };
    const places = placed(panel, figure, frame);
    const behind = places.filter((one) => one.z < 0).map((one) => one.node);
    const before = inOrder([...places.filter((one) => one.z >= 0), ...endLabels(panel, figure, frame)]);
    return [
      node("clipPath", { id: clip }, [node("rect", room)]),
      ...behind,
      ...valueAxis(panel, frame),
      ...timeAxis(panel, n === last, frame),
      node("g", { "clip-path": `url(#${clip})` }, inOrder(overTime(panel, figure, frame))),
      ...before,
    ];
  });
  const names = axisName(figure, frame, plotBox(frame)).map((one) => one.node);
  return [...hatchDefinitions(drawn), ...drawn, ...names];
}

function inOrder(drawn: Drawn[]): Node[] {
  return [...drawn].sort((a, b) => a.z - b.z).map((one) => one.node);
}

/** All that runs over time: series, and the curves, areas and bars that were made of them. */
function overTime(panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const drawn = panel.series.flatMap((one) => drawSeries(one, panel, figure, frame));
  if (figure.view === "before") return drawn;
  for (const shape of panel.shapes) {
    if (shape.shape === "curve") drawn.push(...drawCurve(shape, panel, figure, frame));
    else if (shape.shape === "bars") drawn.push(...drawBars(shape, panel, figure, frame));
    else if (shape.shape === "area")
      drawn.push(...drawArea(shape, panel, colourOf(shape, figure, frame.palette), frame));
  }
  return drawn;
}

/** What stands at places: spans, rules and points, their texts in nobody's way. */
function placed(panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const onLine = crossing(runsOf(panel, figure));
  const grid = panel.value.ticks.map((tick) => panel.value.toPixel(tick.at));
  const free = placing(
    undefined,
    ({ left, y }, width) => onLine(left, width, y + 1, 12),
    ({ y }) => grid.some((at) => at > y + 1 && at < y + 13),
  );
  for (const [x, y] of ringsOf(panel)) free.keepClear(x - RING, 2 * RING, y - 7);
  let missing = 0;
  const counted = (one: { drawn: Drawn[]; missing: number }) => {
    missing += one.missing;
    return one.drawn;
  };
  // flags take what room the others leave
  const inOrder = [...panel.shapes].sort((a, b) => +(a.shape === "flags") - +(b.shape === "flags"));
  const drawn = inOrder.flatMap((shape) => {
    if (shape.shape === "span") return drawSpan(shape, panel, frame, free);
    if (shape.shape === "rule") return counted(drawRule(shape, panel, figure, frame, free));
    if (shape.shape === "flags") return drawFlags(shape, panel, frame, free);
    return shape.shape === "points" ? counted(drawPoints(shape, panel, frame, free)) : [];
  });
  if (!missing) return drawn;
  const text = `${missing} name${missing > 1 ? "s" : ""} left out; closer there is room`;
  const spot = free.choose(
    widthOf(text),
    [panel.box.bottom - 16, panel.box.top + 2].map((y) => ({ left: panel.box.right - widthOf(text) - 4, y })),
  );
  const { left, y } = spot ?? { left: panel.box.left + 4, y: panel.box.bottom - 16 };
  return [...drawn, label(text, left, y, frame.palette.muted, frame)];
}

/** Where points are picked out, as pixels. */
function ringsOf({ shapes, time, value }: Panel): [number, number][] {
  return shapes.flatMap((shape) =>
    shape.shape === "points"
      ? shape.t.flatMap((t, n): [number, number][] => {
          const v = shape.v[n];
          return v === null || v === undefined ? [] : [[time.toPixel(t), value.toPixel(v)]];
        })
      : [],
  );
}

/** The lines of a panel as pixels, rules among them. */
function runsOf({ series, shapes, time, value, box }: Panel, figure: Figure): Run[] {
  const run = (t: number[], v: (number | null)[]): Run =>
    t.map((at, n) => {
      const here = v[n];
      return here === null || here === undefined ? undefined : [time.toPixel(at), value.toPixel(here)];
    });
  const before = figure.view === "before";
  const at = (x: number, y: number): [number, number] => [x, y];
  return [
    ...series.map((one) => run(one.t, before ? one.before : one.v)),
    ...shapes.flatMap((one): Run[] => {
      if (one.shape === "curve") return before ? [] : [run(one.t, one.v)];
      if (one.shape !== "rule") return [];
      if (one.t !== null) return [[at(time.toPixel(one.t), box.top), at(time.toPixel(one.t), box.bottom)]];
      return one.v === null
        ? []
        : [[at(box.left, value.toPixel(one.v)), at(box.right, value.toPixel(one.v))]];
    }),
  ];
}

/** The line that periods stand on, with its ticks and dates where it is labelled. */
function timeAxis({ time, box }: Panel, labelled: boolean, frame: Frame): Node[] {
  const { palette } = frame;
  const line = (x1: number, y1: number, x2: number, y2: number, stroke: string) =>
    node("line", { x1, y1, x2, y2, stroke, "stroke-width": 1 });
  const foot = Math.round(box.bottom) + 0.5;
  const axis = line(box.left, foot, box.right, foot, labelled ? palette.ink : palette.rule);
  if (!labelled) return [axis];
  const taken: [number, number][] = [];
  const names = [...time.ticks]
    // years and months are kept where there is no room for all
    .sort((a, b) => +b.strong - +a.strong)
    .flatMap((tick) => {
      const weight = tick.strong ? 600 : 400;
      const half = textWidth(tick.label, TICK_SIZE, tick.strong ? "sans600" : "sans400") / 2;
      const x = time.toPixel(tick.at);
      if (taken.some(([left, right]) => x - half - 4 < right && x + half + 4 > left)) return [];
      taken.push([x - half, x + half]);
      const ink = { fill: tick.strong ? palette.ink : palette.muted, size: TICK_SIZE, weight };
      return [written(tick.label, x, box.bottom + 5, { ...ink, "text-anchor": "middle" })];
    });
  const ticks = time.ticks.map((tick) => {
    const x = Math.round(time.toPixel(tick.at)) + 0.5;
    return line(x, foot, x, foot + 4, palette.ink);
  });
  return [axis, ...ticks, ...names];
}

/** Lines of the grid with their numbers. */
function valueAxis({ value, box }: Panel, frame: Frame): Node[] {
  const { palette } = frame;
  return value.ticks.flatMap((tick) => {
    const at = value.toPixel(tick.at);
    const y = Math.round(at) + 0.5;
    const ink = { fill: palette.muted, size: TICK_SIZE, "text-anchor": "end" };
    return [
      node("line", { x1: box.left, y1: y, x2: box.right, y2: y, stroke: palette.rule, "stroke-width": 1 }),
      written(tick.label, box.left - 8, at - TICK_SIZE / 2, ink),
    ];
  });
}
