/**
 * A figure description to chart options. Pure: no DOM, no React, so that the screen and a renderer on
 * the server draw the same picture.
 */
import type { EChartsOption } from "echarts";
import type { Figure, FigureLine } from "../api/client";
import type { Palette } from "../app/theme";
import { formatNumber } from "../ui/format";
import { bandSeries } from "./bands";
import { lowerBound, niceRange, spread, timeTicks, type Box } from "./scale";
import { beforePoints, dashedPoints, hollowPoints, lonePoints, solidPoints, type Point } from "./strokes";

export interface Frame {
  width: number;
  height: number;
  from: number;
  to: number;
  palette: Palette;
  font: string;
  /** Room for a title and the key of textures, for a picture that leaves the screen. */
  forHandOver?: boolean;
  titleFont?: string;
}

export const MARGIN = { left: 56, right: 132, top: 22, bottom: 26 };
const LABEL_GAP = 15;

export function plotBox(frame: Frame): Box {
  const extra = frame.forHandOver ? { top: 46, bottom: 34 } : { top: 0, bottom: 0 };
  return {
    left: MARGIN.left,
    right: frame.width - MARGIN.right,
    top: MARGIN.top + extra.top,
    bottom: frame.height - MARGIN.bottom - extra.bottom,
  };
}

export function lineColour(line: FigureLine, palette: Palette, alone: boolean): string {
  if (line.role === "projection" && alone) return palette.iris;
  return palette.series[line.colour % palette.series.length] ?? palette.lagoon;
}

/** How many series the figure shows. */
export function seriesCount(figure: Figure): number {
  return figure.lines.filter((line) => line.role === "series").length;
}

/** The widest window a figure has anything in. */
export function fullWindow(figure: Figure): [number, number] {
  let from = Infinity;
  let to = -Infinity;
  for (const line of figure.lines) {
    from = Math.min(from, line.t[0] ?? Infinity);
    to = Math.max(to, line.t.at(-1) ?? -Infinity);
  }
  return from < to ? [from, to] : [from - 86_400_000, from + 86_400_000];
}

/** The value axis that holds all that is drawn in the window; zero is on it unless it is far away. */
export function valueRange(figure: Figure, from: number, to: number) {
  let low = Infinity;
  let high = -Infinity;
  const take = (value: number | null | undefined) => {
    if (value === null || value === undefined) return;
    if (value < low) low = value;
    if (value > high) high = value;
  };
  for (const line of figure.lines) {
    const first = lowerBound(line.t, from);
    for (let n = first; n < line.t.length && (line.t[n] ?? 0) <= to; n++) {
      if (figure.view !== "before") take(line.v[n]);
      if (figure.view !== "after" && line.role === "series") take(line.before?.[n]);
      for (const limits of line.limits ?? []) {
        take(limits.lower[n]);
        take(limits.upper[n]);
      }
    }
  }
  if (low > high) return niceRange(0, 1);
  if (low > 0 && low < high * 0.6) low = 0;
  return niceRange(low, high);
}

export function figureOptions(figure: Figure, frame: Frame): EChartsOption {
  const box = plotBox(frame);
  const range = valueRange(figure, frame.from, frame.to);
  const alone = seriesCount(figure) === 1;
  const ticks = timeTicks(frame.from, frame.to, box.right - box.left);
  const { palette } = frame;
  const text = { fontFamily: frame.font, color: palette.muted, fontSize: 12.5 };
  return {
    animation: false,
    backgroundColor: frame.forHandOver ? palette.card : "transparent",
    grid: {
      left: box.left,
      right: frame.width - box.right,
      top: box.top,
      bottom: frame.height - box.bottom,
      outerBoundsMode: "none",
    },
    xAxis: {
      type: "value",
      min: frame.from,
      max: frame.to,
      axisLine: { lineStyle: { color: palette.ink }, onZero: false },
      axisTick: { customValues: ticks.map((tick) => tick.at), length: 4, lineStyle: { color: palette.ink } },
      splitLine: { show: false },
      axisLabel: {
        ...text,
        customValues: ticks.map((tick) => tick.at),
        formatter: (at: number) => {
          const tick = ticks.find((one) => one.at === at);
          return tick ? (tick.strong ? `{strong|${tick.label}}` : tick.label) : "";
        },
        rich: { strong: { fontFamily: frame.font, fontSize: 12.5, fontWeight: 600, color: palette.ink } },
        hideOverlap: true,
      },
    },
    yAxis: {
      type: "value",
      min: range.min,
      max: range.max,
      interval: range.step,
      axisLine: { show: false },
      axisTick: { show: false },
      axisLabel: { ...text, formatter: (value: number) => formatNumber(Number(value.toPrecision(12))) },
      splitLine: { lineStyle: { color: palette.rule } },
    },
    series: figure.lines.flatMap((line) => drawLine(line, figure, frame, alone)) as EChartsOption["series"],
    graphic: [
      ...endLabels(figure, frame, box, range, alone),
      ...axisName(figure, frame, box),
      ...(frame.forHandOver ? titleAndKey(figure, frame, box) : []),
    ],
  };
}

function drawLine(line: FigureLine, figure: Figure, frame: Frame, alone: boolean): object[] {
  const colour = lineColour(line, frame.palette, alone);
  if (line.role === "series") return drawSeries(line, figure, frame, colour);
  if (figure.view === "before") return [];
  if (line.role === "projection") {
    return [
      ...bandSeries(line, colour, frame.from, frame.to),
      stroke(points(line), { color: colour, width: 1.8, type: [5, 3] }, 6),
    ];
  }
  return [
    ...bandSeries(line, colour, frame.from, frame.to),
    stroke(points(line), { color: colour, width: 2.6 }, 5),
  ];
}

function drawSeries(line: FigureLine, figure: Figure, frame: Frame, colour: string): object[] {
  const { palette } = frame;
  const first = lowerBound(line.t, frame.from);
  const shown = lowerBound(line.t, frame.to) - first;
  const hasReading = figure.lines.some((other) => other.series === line.series && other.role === "reading");
  // a dense line with a reading over it stands back, so that the reading is what is seen
  const dense = shown > 200;
  const width = dense ? 1.1 : 1.6;
  const opacity = hasReading && dense ? 0.5 : 0.95;
  const all: object[] = [];
  if (figure.view !== "after") {
    const only = figure.view === "before";
    all.push(
      stroke(
        beforePoints(line),
        { color: only ? colour : palette.muted, width: only ? 1.4 : 1, opacity: only ? 1 : 0.55 },
        2,
      ),
    );
  }
  if (figure.view === "before") return all;
  all.push(stroke(solidPoints(line), { color: colour, width, opacity }, 3));
  all.push(stroke(dashedPoints(line), { color: colour, width: Math.max(width, 1.3), type: [4, 3] }, 3));
  all.push(dots(lonePoints(line), { symbol: "circle", size: 4, fill: colour, edge: colour }));
  const size = shown > 400 ? 6 : 8;
  all.push(dots(hollowPoints(line, "fa"), { symbol: "diamond", size, fill: palette.card, edge: colour }));
  all.push(
    dots(hollowPoints(line, "s"), {
      symbol: "circle",
      size: size + 2,
      fill: palette.card,
      edge: palette.ember,
    }),
  );
  return all.filter((one) => (one as { data: unknown[] }).data.length > 0);
}

function points(line: FigureLine): Point[] {
  return line.t.map((t, n) => [t, line.v[n] ?? null]);
}

interface Stroke {
  color: string;
  width: number;
  opacity?: number;
  type?: number[];
}

function stroke(data: Point[], style: Stroke, z: number): object {
  return {
    type: "line",
    data,
    showSymbol: false,
    connectNulls: false,
    silent: true,
    clip: true,
    z,
    lineStyle: { join: "round", ...style },
  };
}

function dots(data: Point[], look: { symbol: string; size: number; fill: string; edge: string }): object {
  return {
    type: "scatter",
    data,
    symbol: look.symbol,
    symbolSize: look.size,
    silent: true,
    clip: true,
    z: 7,
    itemStyle: { color: look.fill, borderColor: look.edge, borderWidth: 1.4 },
  };
}

/** The last place a line is seen in the window. */
function lastSeen(line: FigureLine, figure: Figure, frame: Frame): Point | undefined {
  const values = figure.view === "before" ? line.before : line.v;
  for (let n = lowerBound(line.t, frame.to + 1) - 1; n >= 0; n--) {
    const at = line.t[n] ?? 0;
    if (at < frame.from) return undefined;
    const value = values?.[n];
    if (value !== null && value !== undefined && line.c[n] !== "s") return [at, value];
  }
  return undefined;
}

function endLabels(
  figure: Figure,
  frame: Frame,
  box: Box,
  range: { min: number; max: number },
  alone: boolean,
): object[] {
  const named = figure.lines
    .filter((line) => figure.view !== "before" || line.role === "series")
    .flatMap((line) => {
      const seen = lastSeen(line, figure, frame);
      if (!seen) return [];
      const share = ((seen[1] ?? 0) - range.min) / (range.max - range.min);
      return [{ line, wish: box.bottom - share * (box.bottom - box.top), at: seen[0] }];
    });
  const places = spread(
    named.map((one) => one.wish),
    LABEL_GAP,
    box.top + 4,
    box.bottom - 2,
  );
  return named.map((one, n) => ({
    type: "text",
    silent: true,
    x: box.right + 8,
    y: (places[n] ?? 0) - 7,
    style: {
      text: labelText(one.line, alone),
      fill: lineColour(one.line, frame.palette, alone),
      font: `${one.line.role === "series" ? 600 : 400} 13px ${frame.font}`,
      width: MARGIN.right - 12,
      overflow: "truncate",
    },
  }));
}

function labelText(line: FigureLine, alone: boolean): string {
  if (line.role === "series" || alone) return line.name;
  return `${line.series}, ${line.name}`;
}

function axisName(figure: Figure, frame: Frame, box: Box): object[] {
  if (!figure.measure) return [];
  return [
    {
      type: "text",
      silent: true,
      x: box.left - 46,
      y: box.top - 18,
      style: {
        text: `${figure.measure}, per ${figure.period}`,
        fill: frame.palette.muted,
        font: `400 12px ${frame.font}`,
      },
    },
  ];
}

/** Title above and key of shapes and textures below, for a picture that stands alone. */
function titleAndKey(figure: Figure, frame: Frame, box: Box): object[] {
  const { palette } = frame;
  const codes = new Set(figure.lines.flatMap((line) => [...line.c]));
  const key = [
    { code: "m", text: "━ measured" },
    { code: "f", text: "◇ filled" },
    { code: "b", text: "╌ bridged" },
    { code: "s", text: "○ set aside" },
    { code: "a", text: "◇ adjusted" },
    { code: "p", text: "▨ provisional" },
    { code: "j", text: "▨ projected, with limits" },
  ].filter((one) => codes.has(one.code) && (figure.view !== "before" || one.code === "m"));
  return [
    {
      type: "text",
      x: 16,
      y: 14,
      style: { text: figure.title, fill: palette.ink, font: `600 18px ${frame.titleFont ?? frame.font}` },
    },
    {
      type: "text",
      x: box.left,
      y: frame.height - 26,
      style: {
        text: `${key.map((one) => one.text).join("     ")}     as of ${figure.as_of}`,
        fill: palette.muted,
        font: `400 12.5px ${frame.font}`,
      },
    },
  ];
}
