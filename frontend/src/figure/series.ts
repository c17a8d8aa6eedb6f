/** A series: solid where measured, dashed or hollow where not. */
import { stackedArea } from "./area";
import { dashOf, dots, stroke } from "./ink";
import { colourOf, hasReading, isHidden, MOST_COLOURED, type Frame } from "./frame";
import { lowerBound } from "./scale";
import {
  adjustedPoints,
  beforePoints,
  codedPoints,
  dashedPoints,
  hollowPoints,
  lonePoints,
  provisionalPoints,
  solidPoints,
  type Point,
} from "./strokes";
import type { Figure, Series } from "./types";

/** Steps as the charting library names them: where between two points the value changes. */
const STEPS: Record<string, string> = { held: "end", early: "start", mid: "middle" };

/** All strokes and marks of a series. */
export function drawSeries(line: Series, figure: Figure, frame: Frame): object[] {
  const colour = colourOf(line, figure, frame.palette);
  if (figure.arrangement === "stacked") return drawStacked(line, figure, frame, colour);
  return isHidden(line, figure) ? [] : drawInk(line, figure, frame, colour);
}

/** A stacked series: its own band, open wherever the stack is, hatched where it rests on what is not there. */
function drawStacked(line: Series, figure: Figure, frame: Frame, colour: string): object[] {
  const onTop: Series = {
    ...line,
    v: line.top,
    c: [...line.c].map((code, n) => (line.top[n] === null || line.unsure[n] ? "o" : code)).join(""),
  };
  const unsure = line.unsure.some(Boolean);
  return [
    ...stackedArea(line, colour, frame.from, frame.to, figure.shape),
    ...drawInk(onTop, { ...figure, view: "after" }, frame, colour),
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
function besideUnsure(line: Series): Point[] {
  return line.t.map((at, n) => [
    at,
    [n - 1, n, n + 1].some((near) => line.unsure[near]) ? (line.top[n] ?? null) : null,
  ]);
}

function drawInk(line: Series, figure: Figure, frame: Frame, colour: string): object[] {
  const { palette } = frame;
  const first = lowerBound(line.t, frame.from);
  const shown = lowerBound(line.t, frame.to) - first;
  // a dense line with a reading over it stands back, so that the reading is what is seen; so do lines in a crowd
  const dense = shown > 200;
  const crowd = figure.series.length > MOST_COLOURED;
  const { look } = line;
  const width = look?.weight ?? (dense || crowd ? 1.1 : 1.6);
  const opacity = look ? 1 : crowd ? 0.7 : hasReading(figure, line.name) && dense ? 0.5 : 0.95;
  const dash = look ? dashOf(look) : undefined;
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
  const odd = figure.markers === "odd" || figure.markers === "all";
  const each = figure.markers === "measured" || figure.markers === "all";
  all.push(
    { ...stroke(solidPoints(line), { color: colour, width, opacity, ...dash }, 3), ...shape },
    {
      ...stroke(dashedPoints(line), { color: colour, width: Math.max(width, 1.3), type: [4, 3] }, 3),
      ...shape,
    },
    { ...stroke(adjustedPoints(line), { color: colour, width, opacity, type: [9, 2] }, 3), ...shape },
    // striped like its swatch: short strokes across the way the line runs
    { ...stroke(provisionalPoints(line), { color: palette.wheat, width: 3.2, type: [2, 2] }, 3), ...shape },
    { ...stroke(provisionalPoints(line), { color: colour, width: 0.8, opacity: 0.7 }, 3), ...shape },
    dots(each ? codedPoints(line, "m") : lonePoints(line), {
      symbol: "circle",
      size: 4,
      fill: colour,
      edge: colour,
    }),
  );
  if (odd)
    all.push(
      dots(hollowPoints(line, "f"), { symbol: "diamond", size, fill: palette.card, edge: colour }),
      dots(hollowPoints(line, "a", 3), { symbol: "triangle", size, fill: palette.card, edge: colour }),
    );
  // what is set aside lies on no stroke: without its mark it would be gone
  all.push(
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
  const { shape } = figure;
  if (shape === "curve") return { smooth: 0.4, smoothMonotone: "x" };
  const step = STEPS[shape];
  return step ? { step } : {};
}
