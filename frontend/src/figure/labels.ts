/** Names at the ends of lines, and the name of the value axis. */
import { formatNumber } from "../ui/format";
import { colourOf, fullName, isHidden, MARGIN, type Frame, type Panel } from "./frame";
import type { Drawn } from "./ink";
import { node } from "./nodes";
import { written } from "./placing";
import { spread, type Box, lowerBound } from "./scale";
import { fitted, wrapped } from "./text";
import type { Figure, Series } from "./types";

const LABEL_GAP = 15;
const NAME = 13;
const NOTE = 12; // pixels of the letters of what is said of a line
const MOST_LINES = 4;

interface Named {
  name: string;
  value: number;
  colour: string;
  strong: boolean;
  /** Said of the line above it. */
  note?: boolean;
}

/** The last value that is seen in the window. */
function lastSeen(
  t: number[],
  frame: Frame,
  value: (n: number) => number | null | undefined,
): number | undefined {
  for (let n = lowerBound(t, frame.to + 1) - 1; n >= 0; n--) {
    if ((t[n] ?? 0) < frame.from) return undefined;
    const found = value(n);
    if (typeof found === "number") return found;
  }
  return undefined;
}

function seriesValue(one: Series, figure: Figure, n: number): number | null | undefined {
  if ("st".includes(one.c[n] ?? " ")) return undefined;
  if (figure.arrangement !== "stacked") return (figure.view === "before" ? one.before : one.v)[n];
  const [low, high] = [one.floor[n], one.top[n]];
  return typeof low === "number" && typeof high === "number" ? (low + high) / 2 : undefined;
}

/** What has a name at its end, with the value it ends at. */
function ends(panel: Panel, figure: Figure, frame: Frame): Named[] {
  const named: Named[] = [];
  for (const one of panel.series) {
    const value = isHidden(one, figure)
      ? undefined
      : lastSeen(one.t, frame, (n) => seriesValue(one, figure, n));
    if (value !== undefined)
      named.push({ name: one.called, value, colour: colourOf(one, figure, frame.palette), strong: true });
  }
  for (const one of figure.view === "before" ? [] : panel.shapes) {
    if (one.shape === "rule" && one.v !== null) {
      const colour = colourOf(one, figure, frame.palette);
      named.push({ name: one.name, value: one.v, colour, strong: false });
      named.push({ name: formatNumber(one.v), value: one.v, colour, strong: false, note: true });
    }
    if (one.shape !== "curve") continue;
    const value = lastSeen(one.t, frame, (n) => one.v[n]);
    if (value === undefined) continue;
    const colour = colourOf(one, figure, frame.palette);
    one.label.forEach((text, n) => {
      // what is said of a line stands whole, on as many lines as it needs
      const lines = n ? wrapped(text, NOTE, MARGIN.right - 12, MOST_LINES) : [fullName(one, figure, text)];
      for (const name of lines) named.push({ name, value, colour, strong: false, note: n > 0 });
    });
  }
  return named;
}

export function endLabels(panel: Panel, figure: Figure, frame: Frame): Drawn[] {
  const { box } = panel;
  const room = Math.max(1, Math.floor((box.bottom - box.top) / LABEL_GAP));
  const every = ends(panel, figure, frame).map((one) => ({ one, wish: panel.value.toPixel(one.value) }));
  // what is said of lines gives way to the names of all of them
  const named = every.length > room ? every.filter(({ one }) => !one.note) : every;
  // what does not fit is counted: names on each other can be read by nobody
  const shown = named.length > room ? named.slice(0, room - 1) : named;
  const places = spread(
    shown.map((one) => one.wish),
    LABEL_GAP,
    box.top + 4,
    box.bottom - 2 - (shown.length < named.length ? LABEL_GAP : 0),
  );
  const most = MARGIN.right - 12;
  const labels: Drawn[] = shown.flatMap(({ one, wish }, n) => {
    const place = places[n] ?? 0;
    const size = one.note ? NOTE : NAME;
    const weight = one.strong ? 600 : 400;
    const face = one.strong ? "sans600" : "sans400";
    const text = fitted(one.name, size, most, face);
    const named = { z: 8, node: written(text, box.right + 8, place - 7, { fill: one.colour, size, weight }) };
    // a name that had to make room is led back to its line
    const apart = Math.abs(place - wish) > LABEL_GAP / 2;
    return apart ? [named, leader(box.right, wish, place, one.colour)] : [named];
  });
  if (shown.length < named.length) {
    const ink = { fill: frame.palette.muted, size: NAME };
    labels.push({
      z: 8,
      node: written(`and ${named.length - shown.length} more`, box.right + 8, box.bottom - 9, ink),
    });
  }
  return labels;
}

function leader(x: number, from: number, to: number, stroke: string): Drawn {
  const ends = { x1: x + 1, y1: from, x2: x + 6, y2: to };
  return { z: 8, node: node("line", { ...ends, stroke, "stroke-width": 1, "stroke-opacity": 0.6 }) };
}

export function axisName(figure: Figure, frame: Frame, box: Box): Drawn[] {
  const title = figure.scales[0]?.title;
  if (!title) return [];
  return [
    { z: 8, node: written(title, box.left - 46, box.top - 21, { fill: frame.palette.muted, size: 12 }) },
  ];
}
