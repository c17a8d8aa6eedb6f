/** Names of lines where their dress says they stand. */
import { TICK } from "../../figure/axes";
import { halo, written } from "../../figure/board";
import { endNames, NAME, NOTE, type EndName } from "../../figure/endnames";
import type { Node } from "../../figure/nodes";
import { lowerBound } from "../../figure/scale";
import { fitted, widthOf, wrapped } from "../../figure/text";
import { valueText } from "./axes";
import { colourOf } from "./colour";
import { axisOf, isSeries, keyOf, type Line, type Panel, type Sheet } from "./sheet";

const MOST_LINES = 4;

/** Values of a line over time; a stacked one lies in the middle of its band. */
function valuesOf(line: Line, sheet: Sheet): { t: number[]; v: (number | null)[] } | undefined {
  if (isSeries(line)) {
    if (sheet.figure.arrangement === "stacked")
      return {
        t: line.t,
        v: line.t.map((_, n) => {
          const [low, high] = [line.floor[n], line.top[n]];
          return typeof low === "number" && typeof high === "number" ? (low + high) / 2 : null;
        }),
      };
    const values = sheet.figure.view === "before" ? line.before : line.v;
    return { t: line.t, v: values.map((value, n) => ("st".includes(line.c[n] ?? " ") ? null : value)) };
  }
  if (line.shape === "curve" || line.shape === "bars") return { t: line.t, v: line.v };
  return undefined;
}

interface Anchor {
  x: number;
  y: number;
}

function anchorOf(line: Line, panel: Panel, sheet: Sheet): Anchor | undefined {
  const axis = axisOf(line, panel);
  if (!isSeries(line) && line.shape === "rule")
    return line.v === null || !axis.holds(line.v) ? undefined : { x: panel.box.right, y: axis.toY(line.v) };
  const values = valuesOf(line, sheet);
  if (!values) return undefined;
  const { start, end } = sheet.time;
  const first = lowerBound(values.t, start);
  const last = lowerBound(values.t, end + 1);
  let found = -1;
  for (let n = first; n < last; n++) {
    const v = values.v[n];
    if (v === null || v === undefined || !axis.holds(v)) continue;
    if (line.look.named === "start") {
      found = n;
      break;
    }
    if (line.look.named === "peak") {
      if (found < 0 || v > (values.v[found] ?? -Infinity)) found = n;
    } else found = n;
  }
  if (found < 0) return undefined;
  return { x: sheet.toX(values.t[found] ?? 0), y: axis.toY(values.v[found] ?? 0) };
}

/** The name at the end of a line; a line held against says its number too. */
function toldName(line: Line, panel: Panel): string {
  const { name } = line.look;
  return !isSeries(line) && line.shape === "rule" && line.v !== null && !name.match(/\d/)
    ? `${name}, ${valueText(line.v, axisOf(line, panel))}`
    : name;
}

/** Names beside the plot, and those that stand at a beginning or a peak. */
export function drawNames(panel: Panel, sheet: Sheet): Node[] {
  const { box } = panel;
  const wanted = panel.lines.flatMap((line) => {
    if (!line.look.name || !["end", "start", "peak"].includes(line.look.named)) return [];
    const at = anchorOf(line, panel, sheet);
    return at ? [{ line, at, ink: colourOf(line.look.colour, sheet.page) }] : [];
  });
  const numbers = panel.right?.view.numbers
    ? Math.max(0, ...panel.right.ticks.map((tick) => widthOf(tick.label, TICK))) + 10
    : 0;
  const x = box.right + numbers + 8;
  const most = Math.max(20, sheet.width - 12 - x);
  const column = { x, from: box.right + numbers, most, top: box.top, bottom: box.bottom };
  // what is said of a line stands whole under its name, on as many lines as it needs
  const atEnd = wanted
    .filter(({ line }) => line.look.named === "end")
    .flatMap(({ line: dressed, at, ink }): EndName[] => {
      const strong = dressed.look.role === "series" || dressed.look.weight > 2.4;
      const mine = { wish: at.y, ink, key: keyOf(dressed) };
      const notes = dressed.look.under.flatMap((text) => wrapped(text, NOTE, most, MOST_LINES));
      return [
        { ...mine, text: toldName(dressed, panel), strong },
        ...notes.map((text) => ({ ...mine, text, strong: false, note: true })),
      ];
    });
  const within = wanted
    .filter(({ line }) => line.look.named !== "end")
    .map(({ line, at, ink }) => {
      const { name, named } = line.look;
      const left = named === "start" ? at.x + 4 : Math.min(at.x + 6, box.right - widthOf(name, NAME));
      const top = Math.max(box.top + 8, at.y - 9) - NAME / 2;
      const look = { fill: ink, size: NAME, "data-line": keyOf(line), ...halo(sheet.ground) };
      return written(fitted(name, NAME, box.right - left), left, top, look);
    });
  return [...endNames(atEnd, column, sheet.palette.muted, sheet.ground), ...within];
}
