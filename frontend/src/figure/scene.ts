/** A figure description to the nodes that the bench shows, in pixels. Pure: no DOM, no React; painted on a canvas or written
 * as SVG. */
import { drawArea } from "./area";
import { axisNumbers, gridLines, ON_PIXELS, timeAxis } from "./axes";
import { barsFrom } from "./bars";
import { label, LABEL, written, type Board } from "./board";
import type { Run } from "./crossing";
import { drawCurve } from "./curve";
import { endNames } from "./endnames";
import { colourOf, MARGIN, panelsOf, plotBox, type Frame, type Panel } from "./frame";
import { hatchDefinitions } from "./hatch";
import { at, planeOf, type Drawn } from "./ink";
import { namedEnds } from "./labels";
import { node, type Node } from "./nodes";
import { drawFlags, drawPoints, drawRule, drawSpan, type Placed } from "./placed";
import { roomOn, type Placing } from "./placing";
import type { Dot } from "./runs";
import { drawSeries } from "./series";
import { widthOf } from "./text";
import type { Bars, Figure, Shape } from "./types";

const OVER = 2; // pixels that a stroke may reach beyond the plot: half its width on the edge
const WIDEST_BAR = 18;
const FAINT_BAR = 0.55;
const RULE = { width: 1.2, dash: "6 2" };

/** All nodes of a figure, from the back to the front, with the definitions they refer to. */
export function sceneOf(figure: Figure, frame: Frame): Node[] {
  const panels = panelsOf(figure, frame);
  const last = panels.length - 1;
  const drawn = panels.flatMap((panel, n) => {
    const clip = `plot-${n}`;
    const { left, right, top, bottom } = panel.box;
    const room = { x: left, y: top - OVER, width: right - left, height: bottom - top + 2 * OVER };
    const board: Board = {
      box: panel.box,
      plane: planeOf(panel),
      palette: frame.palette,
      ground: frame.palette.paper,
    };
    const { behind, before } = placed(panel, figure, board);
    return [
      node("clipPath", { id: clip }, [node("rect", room)]),
      ...behind,
      ...gridLines(panel.value.ticks, panel.value.toPixel, panel.box, frame.palette.rule, ON_PIXELS),
      ...axisNumbers(panel.value.ticks, panel.value.toPixel, panel.box, "left", frame.palette.muted),
      ...timeAxis(panel.time.ticks, panel.time.toPixel, {
        box: panel.box,
        palette: frame.palette,
        reach: [0, frame.width],
        named: n === last,
        snap: ON_PIXELS,
      }),
      node("g", { "clip-path": `url(#${clip})` }, inOrder(overTime(panel, figure, frame))),
      ...before,
      ...endNames(
        namedEnds(panel, figure, frame),
        { x: right + 8, from: right, most: MARGIN.right - 12, top, bottom },
        frame.palette.muted,
        board.ground,
      ),
    ];
  });
  return [...hatchDefinitions(drawn), ...drawn, ...axisName(figure, frame)];
}

function axisName(figure: Figure, frame: Frame): Node[] {
  const title = figure.scales[0]?.title;
  const { left, top } = plotBox(frame);
  return title ? [written(title, left - 46, top - 21, { fill: frame.palette.muted, size: LABEL })] : [];
}

function inOrder(drawn: Drawn[]): Node[] {
  return [...drawn].sort((a, b) => a.z - b.z).map((item) => item.node);
}

/** All that runs over time: series, and the curves, areas and bars that were made of them. */
function overTime(panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const drawn = panel.series.flatMap((series) => drawSeries(series, panel, figure, frame));
  if (figure.view === "before") return drawn;
  for (const shape of panel.shapes) {
    if (shape.shape === "curve") drawn.push(...drawCurve(shape, panel, figure, frame));
    else if (shape.shape === "bars") drawn.push(...drawBars(shape, panel, figure, frame));
    else if (shape.shape === "area")
      drawn.push(...drawArea(shape, panel, colourOf(shape, figure, frame.palette), frame));
  }
  return drawn;
}

/** Bars of several readings stand beside each other. */
function drawBars(bars: Bars, panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const { value } = panel;
  const ink = colourOf(bars, figure, frame.palette);
  const beside = panel.shapes.filter((shape) => shape.shape === "bars");
  const [low, high] = value.domain;
  const foot = value.kind === "log" ? low : Math.min(Math.max(0, low), high);
  const hatch = bars.rests === "measured" ? undefined : ink;
  const style = { ink, strength: FAINT_BAR, widest: WIDEST_BAR, hatch: () => hatch };
  const place: [number, number] = [beside.findIndex((curve) => curve.id === bars.id), beside.length];
  return at(2, barsFrom(foot, bars.t, bars.v, planeOf(panel), { ...style, place }));
}

/** What stands at places: spans, rules and points, their texts in nobody's way. */
function placed(panel: Panel, figure: Figure, board: Board): Pick<Placed, "behind" | "before"> {
  const { box, palette, ground } = board;
  const grid = panel.value.ticks.map((tick) => panel.value.toPixel(tick.at));
  const free = roomOn(board, () => runsOf(panel, figure), grid, ringsOf(panel));
  // flags take what room the others leave
  const inOrder = [...panel.shapes].sort((a, b) => +(a.shape === "flags") - +(b.shape === "flags"));
  const every = inOrder.map((shape) => placedOne(shape, figure, board, free));
  const behind = every.flatMap((layer) => layer.behind);
  const before = every.flatMap((layer) => layer.before);
  const missing = every.reduce((sum, layer) => sum + layer.missing, 0);
  if (!missing) return { behind, before };
  const text = `${missing} name${missing > 1 ? "s" : ""} left out; closer there is room`;
  const width = widthOf(text, LABEL);
  const spots = [box.bottom - 16, box.top + 2].map((y) => ({ left: box.right - width - 4, y }));
  const { left, y } = free.choose(width, spots) ?? { left: box.left + 4, y: box.bottom - 16 };
  return { behind, before: [...before, label(text, left, y, palette.muted, ground)] };
}

function placedOne(shape: Shape, figure: Figure, board: Board, free: Placing): Placed {
  switch (shape.shape) {
    case "span":
      return drawSpan(shape, shape.name, board, free);
    case "rule":
      return drawRule(
        shape,
        shape.name,
        { ...RULE, ink: colourOf(shape, figure, board.palette) },
        board,
        free,
      );
    case "flags":
      return drawFlags(shape, board, free);
    case "points":
      return drawPoints(shape, board, free);
    default:
      return { behind: [], before: [], missing: 0 };
  }
}

/** Where points are picked out, as pixels. */
function ringsOf({ shapes, time, value }: Panel): Dot[] {
  return shapes.flatMap((shape) =>
    shape.shape === "points"
      ? shape.t.flatMap((t, n): Dot[] => {
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
  const dot = (x: number, y: number): Dot => [x, y];
  return [
    ...series.map((line) => run(line.t, before ? line.before : line.v)),
    ...shapes.flatMap((shape): Run[] => {
      if (shape.shape === "curve") return before ? [] : [run(shape.t, shape.v)];
      if (shape.shape !== "rule") return [];
      if (shape.t !== null)
        return [[dot(time.toPixel(shape.t), box.top), dot(time.toPixel(shape.t), box.bottom)]];
      return shape.v === null
        ? []
        : [[dot(box.left, value.toPixel(shape.v)), dot(box.right, value.toPixel(shape.v))]];
    }),
  ];
}
