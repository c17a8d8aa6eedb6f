/** Names of lines where their dress says they stand. */
import { spread, lowerBound } from "../../figure/scale";
import { colourOf } from "./colour";
import { valueText } from "./axes";
import { node, textNode, type Node } from "../../figure/nodes";
import { axisOf, halo, isSeries, keyOf, SMALL, TEXT, type Line, type Panel, type Sheet } from "./sheet";
import { fitted, widthOf, wrapped } from "../../figure/text";

const GAP = 16;
const MOST_LINES = 4;

interface NamePlace {
  key: string;
  text: string;
  x: number;
  y: number;
  wish: number;
  from: number;
  ink: string;
  strong: boolean;
  /** Said of the line whose name stands above it. */
  note?: boolean;
}

/** Values of a line over time; a stacked one lies in the middle of its band. */
function valuesOf(one: Line, sheet: Sheet): { t: number[]; v: (number | null)[] } | undefined {
  if (isSeries(one)) {
    if (sheet.figure.arrangement === "stacked")
      return {
        t: one.t,
        v: one.t.map((_, n) => {
          const [low, high] = [one.floor[n], one.top[n]];
          return typeof low === "number" && typeof high === "number" ? (low + high) / 2 : null;
        }),
      };
    const values = sheet.figure.view === "before" ? one.before : one.v;
    return { t: one.t, v: values.map((value, n) => ("st".includes(one.c[n] ?? " ") ? null : value)) };
  }
  if (one.shape === "curve" || one.shape === "bars") return { t: one.t, v: one.v };
  return undefined;
}

interface Anchor {
  x: number;
  y: number;
}

function anchorOf(one: Line, panel: Panel, sheet: Sheet): Anchor | undefined {
  const axis = axisOf(one, panel);
  if (!isSeries(one) && one.shape === "rule")
    return one.v === null || !axis.holds(one.v) ? undefined : { x: panel.box.right, y: axis.toY(one.v) };
  const values = valuesOf(one, sheet);
  if (!values) return undefined;
  const { start, end } = sheet.time;
  const first = lowerBound(values.t, start);
  const last = lowerBound(values.t, end + 1);
  let found = -1;
  for (let n = first; n < last; n++) {
    const v = values.v[n];
    if (v === null || v === undefined || !axis.holds(v)) continue;
    if (one.look.named === "start") {
      found = n;
      break;
    }
    if (one.look.named === "peak") {
      if (found < 0 || v > (values.v[found] ?? -Infinity)) found = n;
    } else found = n;
  }
  if (found < 0) return undefined;
  return { x: sheet.toX(values.t[found] ?? 0), y: axis.toY(values.v[found] ?? 0) };
}

/** The name at the end of a line; a line held against says its number too. */
function toldName(one: Line, panel: Panel): string {
  const { name } = one.look;
  return !isSeries(one) && one.shape === "rule" && one.v !== null && !name.match(/\d/)
    ? `${name}, ${valueText(one.v, axisOf(one, panel))}`
    : name;
}

/** Where every name stands that stands in the chart. */
function namePlaces(panel: Panel, sheet: Sheet): NamePlace[] {
  const { box } = panel;
  const wanted = panel.lines.flatMap((one) => {
    if (!one.look.name || !["end", "start", "peak"].includes(one.look.named)) return [];
    const at = anchorOf(one, panel, sheet);
    return at ? [{ one, at }] : [];
  });
  const numbers = panel.right?.view.numbers
    ? Math.max(0, ...panel.right.ticks.map((tick) => widthOf(tick.label, 11.5))) + 10
    : 0;
  const x = box.right + numbers + 8;
  const room = Math.max(20, sheet.width - 12 - x);
  // what is said of a line stands whole under its name, on as many lines as it needs
  const atEnd = wanted
    .filter(({ one }) => one.look.named === "end")
    .flatMap(({ one, at }) => [
      { one, at, text: toldName(one, panel), note: false },
      ...one.look.under
        .flatMap((text) => wrapped(text, SMALL, room, MOST_LINES))
        .map((text) => ({ one, at, text, note: true })),
    ]);
  const most = Math.max(1, Math.floor((box.bottom - box.top) / GAP));
  const shown = atEnd.length > most ? atEnd.slice(0, most - 1) : atEnd;
  const heights = spread(
    shown.map(({ at }) => at.y),
    GAP,
    box.top + 4,
    box.bottom - 2 - (shown.length < atEnd.length ? GAP : 0),
  );
  const places: NamePlace[] = shown.map(({ one, at, text, note }, n) => {
    const strong = !note && (one.look.role === "series" || one.look.weight > 2.4);
    return {
      key: keyOf(one),
      text: note ? text : fitted(text, TEXT, room, strong ? "sans600" : "sans400"),
      x,
      y: heights[n] ?? at.y,
      // only a name is led back to its line
      wish: note ? (heights[n] ?? at.y) : at.y,
      from: box.right + numbers,
      ink: colourOf(one.look.colour, sheet.page),
      strong,
      note,
    };
  });
  if (shown.length < atEnd.length)
    places.push({
      key: "",
      text: `and ${atEnd.length - shown.length} more`,
      x,
      y: box.bottom - 4,
      wish: box.bottom - 4,
      from: box.right,
      ink: sheet.palette.muted,
      strong: false,
    });
  for (const { one, at } of wanted.filter(({ one }) => one.look.named !== "end")) {
    const width = widthOf(one.look.name, TEXT);
    const left = one.look.named === "start" ? at.x + 4 : Math.min(at.x + 6, box.right - width);
    places.push({
      key: keyOf(one),
      text: fitted(one.look.name, TEXT, box.right - left),
      x: left,
      y: Math.max(box.top + 8, at.y - 9),
      wish: at.y - 9,
      from: left,
      ink: colourOf(one.look.colour, sheet.page),
      strong: false,
    });
  }
  return places;
}

export function drawNames(panel: Panel, sheet: Sheet): Node[] {
  return namePlaces(panel, sheet).flatMap((one) => {
    const text = textNode(one.text, {
      x: one.x,
      y: one.y + 4,
      "font-size": one.note ? SMALL : TEXT,
      "font-weight": one.strong ? 600 : undefined,
      fill: one.ink,
      "data-line": one.key || undefined,
      ...halo(sheet),
    });
    // a name that had to make room is led back to its line
    return Math.abs(one.y - one.wish) > GAP / 2
      ? [
          node("line", {
            x1: one.from + 1,
            y1: one.wish,
            x2: one.x - 2,
            y2: one.y,
            stroke: one.ink,
            "stroke-width": 0.9,
            "stroke-opacity": 0.6,
          }),
          text,
        ]
      : [text];
  });
}
