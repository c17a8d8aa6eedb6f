/**
 * A figure description to chart options. Pure: no DOM, no React, so that the screen and a renderer on
 * the server draw the same picture.
 */
import type { EChartsOption } from "echarts";
import type { Figure } from "../api/client";
import { formatTick } from "../ui/format";
import { panelsOf, plotBox, seriesCount, type Frame, type Panel } from "./frame";
import { axisName, endLabels, titleAndKey } from "./labels";
import { drawLine } from "./lines";
import { markGraphics } from "./marks";
import { timeTicks, type Tick } from "./scale";

export function figureOptions(figure: Figure, frame: Frame): EChartsOption {
  const whole = plotBox(frame);
  const panels = panelsOf(figure, frame);
  const alone = seriesCount(figure) === 1;
  const ticks = timeTicks(frame.from, frame.to, whole.right - whole.left);
  const last = panels.length - 1;
  return {
    animation: false,
    backgroundColor: frame.forHandOver ? frame.palette.card : "transparent",
    grid: panels.map(({ box }) => ({
      left: box.left,
      right: frame.width - box.right,
      top: box.top,
      bottom: frame.height - box.bottom,
      outerBoundsMode: "none",
    })),
    xAxis: panels.map((_, n) => timeAxis(n, ticks, n === last, frame)),
    yAxis: panels.map((panel, n) => valueAxis(n, panel, frame)),
    series: panels.flatMap((panel, n) =>
      panel.lines.flatMap((line) =>
        drawLine(line, figure, frame, alone).map((one) => ({ ...one, xAxisIndex: n, yAxisIndex: n })),
      ),
    ) as EChartsOption["series"],
    graphic: [
      ...panels.flatMap((panel) => [
        ...markGraphics(panel, figure, frame, alone),
        ...endLabels(panel, figure, frame, alone),
      ]),
      ...axisName(figure, frame, whole),
      ...(frame.forHandOver ? titleAndKey(figure, frame, whole) : []),
    ],
  };
}

function axisText(frame: Frame) {
  return { fontFamily: frame.font, color: frame.palette.muted, fontSize: 12.5 };
}

function timeAxis(index: number, ticks: Tick[], labelled: boolean, frame: Frame): object {
  const { palette } = frame;
  const places = ticks.map((tick) => tick.at);
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
        const tick = ticks.find((one) => one.at === at);
        return tick ? (tick.strong ? `{strong|${tick.label}}` : tick.label) : "";
      },
      rich: { strong: { ...axisText(frame), fontWeight: 600, color: palette.ink } },
      hideOverlap: true,
    },
  };
}

function valueAxis(index: number, { range }: Panel, frame: Frame): object {
  return {
    type: "value",
    gridIndex: index,
    min: range.min,
    max: range.max,
    interval: range.step,
    axisLine: { show: false },
    axisTick: { show: false },
    axisLabel: {
      ...axisText(frame),
      formatter: (value: number) => formatTick(value, range.step),
    },
    splitLine: { lineStyle: { color: frame.palette.rule } },
  };
}
