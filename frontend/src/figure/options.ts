/** A figure description to the options of the chart library, for the bench. Pure: no DOM, no React. */
import type { EChartsOption } from "echarts";
import { drawArea } from "./area";
import { drawBars } from "./bars";
import { crossing, type Run } from "./crossing";
import { drawCurve } from "./curve";
import { colourOf, panelsOf, plotBox, type Frame, type Panel } from "./frame";
import { drawFlags } from "./flags";
import { axisName, endLabels } from "./labels";
import { label, placing, widthOf } from "./placing";
import { drawPoints } from "./points";
import { drawRule } from "./rule";
import { drawSeries } from "./series";
import { drawSpan } from "./span";
import type { Area, Figure } from "./types";

const RING = 5;

export function figureOptions(figure: Figure, frame: Frame): EChartsOption {
  const whole = plotBox(frame);
  const panels = panelsOf(figure, frame);
  const last = panels.length - 1;
  return {
    animation: false,
    backgroundColor: "transparent",
    grid: panels.map(({ box }) => ({
      left: box.left,
      right: frame.width - box.right,
      top: box.top,
      bottom: frame.height - box.bottom,
      outerBoundsMode: "none",
    })),
    xAxis: panels.map((panel, n) => timeAxis(n, panel, n === last, frame)),
    yAxis: panels.map((panel, n) => valueAxis(n, panel, frame)),
    series: panels.flatMap((panel, n) =>
      overTime(panel, figure, frame).map((one) => ({ ...one, xAxisIndex: n, yAxisIndex: n })),
    ) as EChartsOption["series"],
    graphic: [
      ...panels.flatMap((panel) => [...placed(panel, figure, frame), ...endLabels(panel, figure, frame)]),
      ...axisName(figure, frame, whole),
    ],
  };
}

/** All that runs over time: series, and the curves, areas and bars that were made of them. */
function overTime(panel: Panel, figure: Figure, frame: Frame): object[] {
  const width = panel.box.right - panel.box.left;
  const drawn = panel.series.flatMap((one) => drawSeries(one, figure, frame));
  if (figure.view === "before") return drawn;
  for (const shape of panel.shapes) {
    if (shape.shape === "curve") drawn.push(...drawCurve(shape, figure, frame));
    else if (shape.shape === "bars") drawn.push(drawBars(shape, figure, frame));
    else if (shape.shape === "area")
      drawn.push(
        ...drawArea(shape, colourOf(shape, figure, frame.palette), frame, width, depth(shape, panel)),
      );
  }
  return drawn;
}

/** How many areas round the same curve are wider: the widest is the palest. */
function depth(area: Area, panel: Panel): number {
  return panel.shapes.filter(
    (one) => one.shape === "area" && one.of === area.of && (one.level ?? 0) > (area.level ?? 0),
  ).length;
}

/** What stands at places: spans, rules and points, their texts in nobody's way. */
function placed(panel: Panel, figure: Figure, frame: Frame): object[] {
  const onLine = crossing(runsOf(panel, figure));
  const grid = panel.value.ticks.map((tick) => panel.value.toPixel(tick.at));
  const free = placing(
    undefined,
    ({ left, y }, width) => onLine(left, width, y + 1, 12),
    ({ y }) => grid.some((at) => at > y + 1 && at < y + 13),
  );
  for (const [x, y] of ringsOf(panel)) free.keepClear(x - RING, 2 * RING, y - 7);
  let missing = 0;
  const counted = (one: { drawn: object[]; missing: number }) => {
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

function axisText(frame: Frame) {
  return { fontFamily: frame.font, color: frame.palette.muted, fontSize: 12.5 };
}

function timeAxis(index: number, { time }: Panel, labelled: boolean, frame: Frame): object {
  const { palette } = frame;
  const places = time.ticks.map((tick) => tick.at);
  return {
    type: "value",
    gridIndex: index,
    min: frame.from,
    max: frame.to,
    axisLine: { lineStyle: { color: labelled ? palette.ink : palette.rule }, onZero: false },
    axisTick: { show: labelled, customValues: places, length: 4, lineStyle: { color: palette.ink } },
    splitLine: { show: false },
    axisLabel: {
      ...axisText(frame),
      show: labelled,
      customValues: places,
      formatter: (at: number) => {
        const tick = time.ticks.find((one) => one.at === at);
        return tick ? (tick.strong ? `{strong|${tick.label}}` : tick.label) : "";
      },
      rich: { strong: { ...axisText(frame), fontWeight: 600, color: palette.ink } },
      hideOverlap: true,
    },
  };
}

function valueAxis(index: number, { value }: Panel, frame: Frame): object {
  const places = value.ticks.map((tick) => tick.at);
  return {
    type: value.kind === "log" ? "log" : "value",
    gridIndex: index,
    min: value.domain[0],
    max: value.domain[1],
    interval: (places[1] ?? 1) - (places[0] ?? 0),
    axisLine: { show: false },
    axisTick: { show: false },
    axisLabel: {
      ...axisText(frame),
      customValues: places,
      formatter: (at: number) =>
        value.ticks.find((tick) => Math.abs(tick.at - at) < 1e-9 * (1 + Math.abs(at)))?.label ?? "",
    },
    splitLine: { lineStyle: { color: frame.palette.rule } },
  };
}
