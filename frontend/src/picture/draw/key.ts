/** The key under the chart: lines that are named there, and what stripes and hollow points mean. */
import type { Sign } from "../../figure/types";
import { colourOf } from "./colour";
import { hatchOf } from "../../figure/hatch";
import { node, textNode, type Node } from "../../figure/nodes";
import { BESIDE, keyOf, PAD, SMALL, SWATCH, UNTESTED, type Line, type Sheet } from "./sheet";
import { dashOf } from "./strokes";

const ROW = 18;

/** The height of a row below the chart. */
function rowAt(n: number, sheet: Sheet): number {
  return (sheet.panels.at(-1)?.box.bottom ?? 0) + 40 + sheet.underTime + n * ROW;
}

export function drawKey(sheet: Sheet): Node[] {
  return sheet.key.flatMap((row, n) => {
    const y = rowAt(n, sheet);
    return row.map(({ thing: line, x }) =>
      node("g", { "data-line": keyOf(line) }, [
        swatch(line, PAD + x, y, sheet),
        textNode(line.look.name, {
          x: PAD + x + SWATCH + BESIDE,
          y,
          "font-size": SMALL,
          fill: sheet.palette.ink,
        }),
      ]),
    );
  });
}

function swatch(line: Line, x: number, y: number, sheet: Sheet): Node {
  const ink = colourOf(line.look.colour, sheet.page);
  if (line.look.drawn === "bars" || line.look.role === "area")
    return node("rect", {
      x,
      y: y - 9,
      width: SWATCH,
      height: 10,
      fill: ink,
      "fill-opacity": line.look.role === "area" ? 0.3 : 0.72,
    });
  return node("line", {
    x1: x,
    y1: y - 4,
    x2: x + SWATCH,
    y2: y - 4,
    stroke: ink,
    "stroke-width": line.look.weight,
    "stroke-dasharray": line.look.role === "projection" ? "6 4" : dashOf(line.look.dash),
  });
}

/** What occurs and was not plainly measured, each with its pattern. */
export function drawSigns(sheet: Sheet): Node[] {
  return sheet.signs.flatMap((row, n) => {
    const y = rowAt(sheet.key.length + n, sheet);
    return row.map(({ thing: sign, x }) =>
      node("g", { "data-part": "notes" }, [
        ...pattern(sign, PAD + x, y, sheet),
        textNode(sign.word, {
          x: PAD + x + SWATCH + BESIDE,
          y,
          "font-size": SMALL,
          fill: sheet.palette.muted,
        }),
      ]),
    );
  });
}

const DASH: Record<string, string> = { b: "4 3", q: "3 3", f: "4 3" };

function pattern(sign: Sign, x: number, y: number, sheet: Sheet): Node[] {
  const { palette } = sheet;
  const line = (attributes: Node["attributes"]) =>
    node("line", { x1: x, y1: y - 4, x2: x + SWATCH, y2: y - 4, ...attributes });
  const middle = x + SWATCH / 2;
  if (sign.codes === "st")
    return [
      node("circle", {
        cx: middle,
        cy: y - 4,
        r: 4.2,
        fill: sheet.ground,
        stroke: palette.ember,
        "stroke-width": 1.4,
      }),
    ];
  if (sign.codes === "p")
    return [line({ stroke: palette.wheat, "stroke-width": 3.6, "stroke-dasharray": "2 2" })];
  if (sign.codes === "j" || sign.codes === UNTESTED)
    return [
      node("rect", {
        x,
        y: y - 10,
        width: SWATCH,
        height: 11,
        fill: hatchOf(palette.iris, sign.codes === "j"),
      }),
    ];
  if (sign.codes === "a")
    return [line({ stroke: palette.lagoon, "stroke-width": 1.8, "stroke-dasharray": "9 2" })];
  const dashed = line({
    stroke: palette.lagoon,
    "stroke-width": 1.6,
    "stroke-dasharray": DASH[sign.codes] ?? "4 3",
  });
  return sign.codes === "f"
    ? [
        dashed,
        node("path", {
          d: `M${middle},${y - 8}L${middle + 4},${y - 4}L${middle},${y}L${middle - 4},${y - 4}Z`,
          fill: sheet.ground,
          stroke: palette.lagoon,
          "stroke-width": 1.3,
        }),
      ]
    : [dashed];
}
