/** A series: solid where measured, dashed or hollow where not. */
import { at, dashOf, marks, planeOf, type Drawn } from "./ink";
import { beforeStroke, onTop, seriesStrokes, stackedBand, stroke, type LineStyle } from "./lineink";
import { dotsOn } from "./plane";
import { pathOf } from "./runs";
import { colourOf, hasReading, isHidden, MOST_COLOURED, type Frame, type Panel } from "./frame";
import { lowerBound } from "./scale";
import { codedPoints, hollowPoints, lonePoints, type Point } from "./strokes";
import type { Figure, Series } from "./types";

/** All strokes and marks of a series. */
export function drawSeries(line: Series, panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const colour = colourOf(line, figure, frame.palette);
  if (figure.arrangement === "stacked") return drawStacked(line, panel, figure, frame, colour);
  return isHidden(line, figure) ? [] : drawInk(line, panel, figure, frame, colour);
}

/** A stacked series: its own band, open wherever the stack is, hatched where it rests on what is not there. */
function drawStacked(line: Series, panel: Panel, figure: Figure, frame: Frame, colour: string): Drawn[] {
  const plane = planeOf(panel);
  const edge = { stroke: colour, "stroke-width": 1.3, "stroke-dasharray": "4 3", "stroke-linecap": "butt" };
  const unsure = line.unsure.some(Boolean) ? besideUnsure(line) : [];
  return [
    ...at(1, stackedBand(line, plane, colour, figure.shape)),
    ...drawInk(onTop(line), panel, { ...figure, view: "after" }, frame, colour),
    ...at(3, stroke(pathOf(dotsOn(unsure, plane), figure.shape), edge)),
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
  const plane = planeOf(panel);
  const before = (style: LineStyle) => at(2, beforeStroke(line, plane, style, figure.shape));
  if (figure.view === "before") return before({ ink: colour, width: 1.4 });
  const style = { ink: colour, width, dash: look ? dashOf(look) : undefined, opacity, thicket };
  const size = shown > 400 ? 2.6 : 3.4;
  const odd = figure.markers === "odd" || figure.markers === "all";
  const each = figure.markers === "measured" || figure.markers === "all";
  const solid = { shape: "circle", size: 2, fill: colour, edge: colour } as const;
  const hollow = { size, fill: palette.card, edge: colour };
  return [
    ...(figure.view === "after" ? [] : before({ ink: palette.muted, width: 1, opacity: 0.6 })),
    ...at(3, seriesStrokes(line, plane, style, palette.wheat, figure.shape)),
    ...marks(each ? codedPoints(line, "m") : lonePoints(line), panel, solid),
    ...(odd ? marks(hollowPoints(line, "f"), panel, { shape: "diamond", ...hollow }) : []),
    ...(odd ? marks(hollowPoints(line, "a", 3), panel, { shape: "triangle", ...hollow }) : []),
    // what is set aside lies on no stroke: without its mark it would be gone
    ...marks(hollowPoints(line, "st"), panel, {
      shape: "circle",
      size: size + 1.4,
      fill: palette.card,
      edge: palette.ember,
    }),
  ];
}
