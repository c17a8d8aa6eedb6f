/** The plane and the board of a picture's axis, and dashes as they are written. */
import { DASHES } from "../../figure/ink";
import type { Board } from "../../figure/board";
import type { Plane } from "../../figure/plane";
import type { ValueAxis } from "./axes";
import type { Panel, Sheet } from "./sheet";

export function planeOf(sheet: Sheet, { toY, holds }: ValueAxis): Plane {
  return { start: sheet.time.start, end: sheet.time.end, toX: sheet.toX, toY, holds };
}

export function boardOf(panel: Panel, sheet: Sheet, axis: ValueAxis): Board {
  return { box: panel.box, plane: planeOf(sheet, axis), palette: sheet.palette, ground: sheet.ground };
}

/** A dash as it is written; longer on a thicker line where a weight is given. */
export function dashOf(name: string, weight = 0): string | undefined {
  const by = Math.max(1, Math.sqrt(weight / 1.4));
  return DASHES[name]?.map((part) => Math.round(part * by * 10) / 10).join(" ");
}
