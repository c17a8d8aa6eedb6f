/** A series: solid where measured, dashed or hollow where not. */
import { stackedArea } from "./area";
import { dashOf, marks, stroke, type Drawn, type Stroke } from "./ink";
import { colourOf, hasReading, isHidden, MOST_COLOURED, type Frame, type Panel } from "./frame";
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

/** All strokes and marks of a series. */
export function drawSeries(line: Series, panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const colour = colourOf(line, figure, frame.palette);
  if (figure.arrangement === "stacked") return drawStacked(line, panel, figure, frame, colour);
  return isHidden(line, figure) ? [] : drawInk(line, panel, figure, frame, colour);
}

/** A stacked series: its own band, open wherever the stack is, hatched where it rests on what is not there. */
function drawStacked(line: Series, panel: Panel, figure: Figure, frame: Frame, colour: string): Drawn[] {
  const onTop: Series = {
    ...line,
    v: line.top,
    c: [...line.c].map((code, n) => (line.top[n] === null || line.unsure[n] ? "o" : code)).join(""),
  };
  const unsure = line.unsure.some(Boolean);
  const edge = { color: colour, width: 1.3, type: [4, 3] };
  return [
    ...stackedArea(line, panel, colour, figure.shape),
    ...drawInk(onTop, panel, { ...figure, view: "after" }, frame, colour),
    ...(unsure ? stroke(besideUnsure(line), panel, edge, 3, figure.shape) : []),
  ];
}

/** Upper edges of points that are not sure, and of those beside them. */
function besideUnsure(line: Series): Point[] {
  return line.t.map((at, n) => [
    at,
    [n - 1, n, n + 1].some((near) => line.unsure[near]) ? (line.top[n] ?? null) : null,
  ]);
}

function drawInk(line: Series, panel: Panel, figure: Figure, frame: Frame, colour: string): Drawn[] {
  const { palette } = frame;
  const first = lowerBound(line.t, frame.from);
  const shown = lowerBound(line.t, frame.to) - first;
  // a dense line with a reading over it stands back, so that the reading is what is seen; so do lines in a crowd
  const dense = shown > 200;
  const crowd = figure.series.length > MOST_COLOURED;
  const { look } = line;
  // a hair line is drawn many times faster than a wider one, and where there are more points than pixels they look alike
  const thicket = shown > panel.box.right - panel.box.left;
  const width = look?.weight ?? (thicket ? 1 : dense || crowd ? 1.1 : 1.6);
  const opacity = look ? 1 : crowd ? 0.7 : hasReading(figure, line.name) && dense ? 0.5 : thicket ? 1 : 0.95;
  const dash = look ? dashOf(look) : {};
  const run = (points: Point[], style: Stroke, z = 3) => stroke(points, panel, style, z, figure.shape);
  const before = (only: boolean) =>
    run(
      beforePoints(line),
      { color: only ? colour : palette.muted, width: only ? 1.4 : 1, opacity: only ? 1 : 0.55 },
      2,
    );
  if (figure.view === "before") return before(true);
  const size = shown > 400 ? 6 : 8;
  const odd = figure.markers === "odd" || figure.markers === "all";
  const each = figure.markers === "measured" || figure.markers === "all";
  const solid = { symbol: "circle", size: 4, fill: colour, edge: colour } as const;
  const hollow = { size, fill: palette.card, edge: colour };
  return [
    ...(figure.view === "after" ? [] : before(false)),
    ...run(solidPoints(line), { color: colour, width, opacity, thicket, ...dash }),
    ...run(dashedPoints(line), { color: colour, width: Math.max(width, 1.3), type: [4, 3] }),
    ...run(adjustedPoints(line), { color: colour, width, opacity, type: [9, 2] }),
    // striped like its swatch: short strokes across the way the line runs
    ...run(provisionalPoints(line), { color: palette.wheat, width: 3.2, type: [2, 2] }),
    ...run(provisionalPoints(line), { color: colour, width: 0.8, opacity: 0.7 }),
    ...marks(each ? codedPoints(line, "m") : lonePoints(line), panel, solid),
    ...(odd ? marks(hollowPoints(line, "f"), panel, { symbol: "diamond", ...hollow }) : []),
    ...(odd ? marks(hollowPoints(line, "a", 3), panel, { symbol: "triangle", ...hollow }) : []),
    // what is set aside lies on no stroke: without its mark it would be gone
    ...marks(hollowPoints(line, "st"), panel, {
      symbol: "circle",
      size: size + 2,
      fill: palette.card,
      edge: palette.ember,
    }),
  ];
}
