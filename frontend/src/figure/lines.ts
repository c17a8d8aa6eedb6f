/** One line of a figure to chart series: solid where measured, dashed or hollow where not. */
import type { Figure, FigureLine } from "../api/client";
import { areaSeries, bandSeries } from "./bands";
import { lineColour, plotBox, type Frame } from "./frame";
import { quietLine } from "./quiet";
import { lowerBound } from "./scale";
import {
  adjustedPoints,
  beforePoints,
  codedPoints,
  dashedPoints,
  hollowPoints,
  lonePoints,
  provisionalPoints,
  readingPoints,
  solidPoints,
  type Point,
} from "./strokes";

/** Steps as the charting library names them: where between two points the value changes. */
const STEPS: Record<string, string> = { held: "end", early: "start", mid: "middle" };

export function drawLine(whole: FigureLine, figure: Figure, frame: Frame, alone: boolean): object[] {
  const box = plotBox(frame);
  const line = whole.limits?.length ? quietLine(whole, frame.from, frame.to, box.right - box.left) : whole;
  const colour = lineColour(line, frame.palette, alone);
  if (line.role === "series") {
    if (figure.arrangement === "stacked") return drawStacked(line, figure, frame, colour);
    return drawSeries(line, figure, frame, colour);
  }
  if (figure.view === "before") return [];
  const bands = bandSeries(line, colour, frame.from, frame.to);
  if (line.role === "projection") {
    return [...bands, stroke(codedPoints(line, "j"), { color: colour, width: 1.8, type: [5, 3] }, 6)];
  }
  const faded = readingPoints(line, "q");
  return [
    ...bands,
    stroke(readingPoints(line, "r"), { color: colour, width: line.kind === "trend" ? 1.6 : 2.6 }, 5),
    ...(faded.length ? [stroke(faded, { color: colour, width: 2.2, type: [3, 3], opacity: 0.55 }, 5)] : []),
  ];
}

/** A stacked series: its own band, open wherever the stack is, hatched where it rests on what is not there. */
function drawStacked(line: FigureLine, figure: Figure, frame: Frame, colour: string): object[] {
  const onTop: FigureLine = {
    ...line,
    v: line.top ?? [],
    c: [...line.c].map((code, n) => (line.top?.[n] === null || line.unsure?.[n] ? "o" : code)).join(""),
  };
  const unsure = [...(line.unsure ?? [])].some(Boolean);
  return [
    ...areaSeries(line, colour, frame.from, frame.to, figure.shape ?? "straight"),
    ...drawSeries(onTop, { ...figure, view: "after" }, frame, colour),
    ...(unsure
      ? [
          {
            ...stroke(besideUnsure(line), { color: colour, width: 1.3, type: [4, 3] }, 3),
            ...shapeOf(figure),
          },
        ]
      : []),
  ];
}

/** Upper edges of points that are not sure, and of those beside them. */
function besideUnsure(line: FigureLine): Point[] {
  return line.t.map((at, n) => [
    at,
    [n - 1, n, n + 1].some((near) => line.unsure?.[near]) ? (line.top?.[n] ?? null) : null,
  ]);
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
  const shape = shapeOf(figure);
  const all: object[] = [];
  if (figure.view !== "after") {
    const only = figure.view === "before";
    all.push({
      ...stroke(
        beforePoints(line),
        { color: only ? colour : palette.muted, width: only ? 1.4 : 1, opacity: only ? 1 : 0.55 },
        2,
      ),
      ...shape,
    });
  }
  if (figure.view === "before") return all;
  const size = shown > 400 ? 6 : 8;
  all.push(
    { ...stroke(solidPoints(line), { color: colour, width, opacity }, 3), ...shape },
    {
      ...stroke(dashedPoints(line), { color: colour, width: Math.max(width, 1.3), type: [4, 3] }, 3),
      ...shape,
    },
    { ...stroke(adjustedPoints(line), { color: colour, width, opacity, type: [9, 2] }, 3), ...shape },
    // striped like its swatch: short strokes across the way the line runs
    { ...stroke(provisionalPoints(line), { color: palette.wheat, width: 3.2, type: [2, 2] }, 3), ...shape },
    { ...stroke(provisionalPoints(line), { color: colour, width: 0.8, opacity: 0.7 }, 3), ...shape },
    dots(lonePoints(line), { symbol: "circle", size: 4, fill: colour, edge: colour }),
    dots(hollowPoints(line, "f"), { symbol: "diamond", size, fill: palette.card, edge: colour }),
    dots(hollowPoints(line, "a", 3), { symbol: "triangle", size, fill: palette.card, edge: colour }),
    dots(hollowPoints(line, "st"), {
      symbol: "circle",
      size: size + 2,
      fill: palette.card,
      edge: palette.ember,
    }),
  );
  return all.filter((one) => (one as { data: unknown[] }).data.length > 0);
}

function shapeOf(figure: Figure): object {
  const shape = figure.shape ?? "straight";
  if (shape === "curve") return { smooth: 0.4, smoothMonotone: "x" };
  const step = STEPS[shape];
  return step ? { step } : {};
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
