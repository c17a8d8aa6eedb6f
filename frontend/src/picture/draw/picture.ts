/** A dressed figure as one SVG. Pure: the same text in a browser and in an embedded engine. */
import { AS_IS, axisNumbers, gridLines, timeAxis } from "../../figure/axes";
import { halo } from "../../figure/board";
import type { Run } from "../../figure/crossing";
import { roomOn } from "../../figure/placing";
import { dotsOn } from "../../figure/plane";
import type { Dot } from "../../figure/runs";
import type { Point } from "../../figure/strokes";
import { SANS, SERIF } from "../../figure/palette";
import type { Figure } from "../../figure/types";
import { fromZero } from "./axes";
import { drawKey, drawSigns } from "./key";
import { hatchDefinitions } from "../../figure/hatch";
import { drawLine } from "./lines";
import { drawNames } from "./names";
import { missingIn, node, svgText, textNode, type Node } from "../../figure/nodes";
import { axisOf, isSeries, PAD, said, sheetOf, SMALL, TEXT, type Panel, type Sheet } from "./sheet";
import { boardOf, planeOf } from "./strokes";
import { fitted, widthOf } from "../../figure/text";

interface Standalone {
  /** What an SVG that stands alone carries: faces as CSS, and its description. */
  faces?: string;
  about?: string;
}

export function pictureSvg(figure: Figure, alone: Standalone = {}): string {
  return sheetSvg(sheetOf(figure), alone);
}

/** The same of a sheet that is laid out already. */
export function sheetSvg(sheet: Sheet, alone: Standalone = {}): string {
  return svgText(pictureNode(sheet, alone));
}

function pictureNode(sheet: Sheet, alone: Standalone): Node {
  const { page, width, height } = sheet;
  const drawn = [
    ...drawHeadings(sheet),
    ...sheet.panels.flatMap((panel, n) => drawPanel(panel, n, sheet)),
    ...drawFree(sheet),
    ...drawKey(sheet),
    ...drawSigns(sheet),
    ...drawFeet(sheet),
  ];
  const definitions = [
    ...hatchDefinitions(drawn),
    ...sheet.panels.map(({ box }, n) =>
      node("clipPath", { id: `room-${n}` }, [
        node("rect", {
          x: box.left,
          y: box.top - 17,
          width: box.right - box.left,
          height: box.bottom - box.top + 18,
        }),
      ]),
    ),
  ];
  return node(
    "svg",
    {
      xmlns: "http://www.w3.org/2000/svg",
      width: page.width,
      height: page.height,
      viewBox: `0 0 ${width} ${height}`,
      "font-family": SANS,
      role: "img",
      "aria-label": page.title || "Line chart",
    },
    [
      ...(alone.about ? [{ tag: "desc", attributes: {}, children: [], text: alone.about }] : []),
      ...(alone.faces ? [{ tag: "style", attributes: {}, children: [], text: alone.faces }] : []),
      node("defs", {}, definitions),
      ...(page.ground === "clear"
        ? []
        : [node("rect", { width, height, fill: sheet.ground, "data-part": "page" })]),
      ...drawn,
    ],
  );
}

function drawHeadings(sheet: Sheet): Node[] {
  const { title, titleSize, under, palette } = sheet;
  const lines = title.map((text, n) =>
    textNode(text, {
      x: PAD,
      y: PAD + titleSize * (0.9 + 1.25 * n),
      "font-family": SERIF,
      "font-weight": 600,
      "font-size": titleSize,
      fill: palette.ink,
      "data-part": "headings",
    }),
  );
  const start = PAD + title.length * titleSize * 1.25;
  return [
    ...lines,
    ...under.map((text, n) =>
      textNode(text, {
        x: PAD,
        y: start + 14 + 18 * n,
        "font-size": TEXT,
        fill: palette.muted,
        "data-part": "headings",
      }),
    ),
  ];
}

function drawPanel(panel: Panel, n: number, sheet: Sheet): Node[] {
  const { box, left, right } = panel;
  const { palette, time, figure } = sheet;
  const last = n === sheet.panels.length - 1;
  const x = (at: number) => Math.max(box.left, Math.min(box.right, sheet.toX(at)));
  const shaded = [...time.shaded, ...time.breaks].map(({ start: from, end: to }) =>
    node("rect", {
      x: x(from),
      y: box.top,
      width: Math.max(0, x(to) - x(from)),
      height: box.bottom - box.top,
      fill: palette.rule,
      "fill-opacity": 0.55,
    }),
  );
  const closings = time.closing
    ? time.breaks.flatMap(({ start: from, end: to }) => {
        const room = x(to) - x(from);
        const wide = widthOf(time.closing, SMALL) < room - 4;
        const middle = (x(from) + x(to)) / 2;
        if (room < 3) return [];
        return [
          textNode(time.closing, {
            x: wide ? middle - widthOf(time.closing, SMALL) / 2 : middle + 4,
            y: box.top + 13,
            "font-size": SMALL,
            fill: palette.muted,
            ...(wide ? {} : { transform: `rotate(90 ${middle.toFixed(2)} ${(box.top + 6).toFixed(2)})` }),
            "data-part": "time",
          }),
        ];
      })
    : [];
  const grid = left.view.grid ? gridLines(left.ticks, left.toY, box, palette.rule, AS_IS) : [];
  const board = boardOf(panel, sheet, left);
  const free = roomOn(
    board,
    () => runsOf(panel, sheet),
    left.ticks.map((tick) => left.toY(tick.at)),
    ringsOf(panel, sheet),
  );
  const lines = panel.lines.map((line) => drawLine(line, panel, sheet, free));
  const apart = sheet.panels.length > 1;
  return [
    node("g", {}, shaded),
    node("g", { "data-part": "left" }, [...grid, ...scaleAt(panel, sheet, "left")]),
    ...(right ? [node("g", { "data-part": "right" }, scaleAt(panel, sheet, "right"))] : []),
    // what is set aside or marked may reach over the edge by a little: it is cut a few pixels outside. Cutting takes an
    // image as long as drawing, and most pictures show all there is
    node("g", reachesOver(panel, sheet) ? { "clip-path": `url(#room-${n})` } : {}, lines),
    ...closings,
    node("g", { "data-part": "time" }, dates(panel, sheet, last)),
    ...drawNames(panel, sheet),
    ...notFromZero(panel, sheet),
    ...(n === 0 ? beyondTheScale(panel, sheet) : []),
    ...withoutRoom(panel, sheet, missingIn(lines)),
    ...(n === 0 || apart ? titles(panel, sheet, n === 0) : []),
    ...(figure.series.length === 0 && figure.shapes.length === 0
      ? [
          textNode(said(sheet.page, "Nothing is in the picture."), {
            x: box.left + 8,
            y: box.top + 20,
            "font-size": TEXT,
            fill: palette.muted,
          }),
        ]
      : []),
  ];
}

/** Whether a line has a number beyond the stretch of time or the ends of its scale. */
function reachesOver(panel: Panel, sheet: Sheet): boolean {
  const { start, end } = sheet.time;
  const cut = [panel.left, panel.right].some(
    (axis) => axis && (axis.view.low !== null || axis.view.high !== null || axis.view.tight),
  );
  return (
    cut ||
    panel.lines.some(
      (line) =>
        "t" in line &&
        Array.isArray(line.t) &&
        ((line.t[0] ?? start) < start || (line.t.at(-1) ?? end) > end),
    )
  );
}

/** The lines of a panel in pixels, and where points are picked out. */
function runsOf(panel: Panel, sheet: Sheet): Run[] {
  return panel.lines.flatMap((line): Run[] => {
    if (!("v" in line) || !Array.isArray(line.v) || !Array.isArray(line.t)) return [];
    const { v } = line;
    const points = line.t.map((t, n): Point => [t, v[n] ?? null]);
    return line.look.role === "points" ? [] : [dotsOn(points, planeOf(sheet, axisOf(line, panel)))];
  });
}

function ringsOf(panel: Panel, sheet: Sheet): Dot[] {
  return panel.lines.flatMap((line) => {
    if (isSeries(line) || line.shape !== "points") return [];
    const points = line.t.map((t, n): Point => [t, line.v[n] ?? null]);
    return dotsOn(points, planeOf(sheet, axisOf(line, panel))).filter((dot) => dot !== undefined);
  });
}

/** The numbers of a scale beside the plot, and its line. */
function scaleAt({ box, left, right }: Panel, sheet: Sheet, side: "left" | "right"): Node[] {
  const axis = side === "left" ? left : right;
  if (!axis) return [];
  const { ink, muted } = sheet.palette;
  const numbers = axis.view.numbers ? axisNumbers(axis.ticks, axis.toY, box, side, muted) : [];
  const x = side === "left" ? box.left : box.right;
  const line = { x1: x, y1: box.top, x2: x, y2: box.bottom, stroke: ink, "stroke-width": 1 };
  return axis.view.line ? [...numbers, node("line", line)] : numbers;
}

function titles(panel: Panel, sheet: Sheet, first: boolean): Node[] {
  const { box, left, right } = panel;
  const headed = (text: string, x: number, part: string) =>
    textNode(text, { x, y: box.top - 14, "font-size": SMALL, fill: sheet.palette.muted, "data-part": part });
  const half = (box.right - box.left) * (right && !right.view.same ? 0.48 : 1);
  const found: Node[] = [];
  if (left.view.title && first)
    found.push(headed(fitted(left.view.title, SMALL, half + box.left - PAD), PAD, "left"));
  if (right && !right.view.same && right.view.title && first) {
    const text = fitted(right.view.title, SMALL, half);
    found.push(headed(text, box.right - widthOf(text, SMALL), "right"));
  }
  return found;
}

function dates({ box }: Panel, sheet: Sheet, named: boolean): Node[] {
  const { palette, width } = sheet;
  const title = named && sheet.time.title ? fitted(sheet.time.title, SMALL, box.right - box.left) : "";
  const look = { "font-size": SMALL, fill: palette.muted };
  const x = (box.left + box.right) / 2 - widthOf(title, SMALL) / 2;
  return [
    ...timeAxis(sheet.ticks, sheet.toX, { box, palette, reach: [2, width - 2], named, snap: AS_IS }),
    ...(title ? [textNode(title, { x, y: box.bottom + 34, ...look })] : []),
  ];
}

/** A bar or a filled area that does not begin at zero says so on the chart. */
function notFromZero(panel: Panel, sheet: Sheet): Node[] {
  const cut = panel.lines.some((line) => {
    const axis = axisOf(line, panel);
    return fromZero(line) && (axis.min > 0 || axis.max < 0 || axis.view.kind === "log");
  });
  if (!cut) return [];
  return [
    textNode(said(sheet.page, "not from zero"), {
      x: panel.box.left + 6,
      y: panel.box.bottom - 6,
      "font-size": SMALL,
      "font-weight": 600,
      fill: sheet.palette.ember,
      ...halo(sheet.ground),
    }),
  ];
}

/** How many values lie beyond the ends of a scale, at those ends. */
function beyondTheScale(panel: Panel, sheet: Sheet): Node[] {
  const { box } = panel;
  const told = (count: number, way: string, axis: "left" | "right") => {
    if (!count) return [];
    const text = said(sheet.page, `{n} values lie ${way}`, count, `{n} value lies ${way}`);
    return [
      textNode(text, {
        x: axis === "left" ? box.left + 6 : box.right - 6 - widthOf(text, SMALL, "sans600"),
        y: way === "below" ? box.bottom - 20 : box.top + 12,
        "font-size": SMALL,
        "font-weight": 600,
        fill: sheet.palette.ember,
        "data-part": axis,
        ...halo(sheet.ground),
      }),
    ];
  };
  return (["left", "right"] as const).flatMap((side) => {
    const view = panel[side]?.view;
    return view && !view.same ? [...told(view.below, "below", side), ...told(view.above, "above", side)] : [];
  });
}

/** How many names of marks and written values found no room. */
function withoutRoom(panel: Panel, sheet: Sheet, count: number): Node[] {
  if (!count) return [];
  const text = said(
    sheet.page,
    "{n} labels left out for want of room",
    count,
    "{n} label left out for want of room",
  );
  return [
    textNode(text, {
      x: panel.box.right - 6 - widthOf(text, SMALL),
      y: panel.box.bottom - 6,
      "font-size": SMALL,
      fill: sheet.palette.muted,
      "data-part": "notes",
      ...halo(sheet.ground),
    }),
  ];
}

/** Free notes, each with a line to its point. */
function drawFree(sheet: Sheet): Node[] {
  const panel = sheet.panels[0];
  if (!panel) return [];
  return sheet.page.notes.flatMap((note, n) => {
    if (!note.text || !panel.left.holds(note.value)) return [];
    const [x, y] = [sheet.toX(note.at), panel.left.toY(note.value)];
    const [toX, toY] = [x + note.dx, y + note.dy];
    const left = note.dx < 0 ? toX - widthOf(note.text, TEXT) : toX;
    return [
      node("g", { "data-note": n }, [
        node("line", { x1: x, y1: y, x2: toX, y2: toY, stroke: sheet.palette.ink, "stroke-width": 0.9 }),
        node("circle", { cx: x, cy: y, r: 2.2, fill: sheet.palette.ink }),
        textNode(note.text, {
          x: left + (note.dx < 0 ? -3 : 3),
          y: toY + 4,
          "font-size": TEXT,
          fill: sheet.palette.ink,
          ...halo(sheet.ground),
        }),
      ]),
    ];
  });
}

function drawFeet(sheet: Sheet): Node[] {
  const { feet, feetTop, palette } = sheet;
  const look = { "font-size": SMALL, fill: palette.muted, "data-part": "notes" };
  return [
    ...feet.left.flatMap((text, n) =>
      text ? [textNode(text, { x: PAD, y: feetTop + 15 * n, ...look })] : [],
    ),
    ...(feet.right
      ? [
          textNode(feet.right, {
            x: sheet.width - PAD - widthOf(feet.right, SMALL),
            y: feetTop + 15 * Math.max(0, feet.left.length - 1),
            ...look,
          }),
        ]
      : []),
  ];
}
