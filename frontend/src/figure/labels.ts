/** Names at the ends of lines, and the name of the value axis. */
import { formatNumber } from "../ui/format";
import { colourOf, fullName, isHidden, MARGIN, type Frame, type Panel } from "./frame";
import { lowerBound, spread, type Box } from "./scale";
import { wrapped } from "./text";
import type { Figure, Series } from "./types";

const LABEL_GAP = 15;
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

export function endLabels(panel: Panel, figure: Figure, frame: Frame): object[] {
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
  const labels: object[] = shown.flatMap(({ one, wish }, n) => {
    const place = places[n] ?? 0;
    const fill = one.colour;
    const text = {
      type: "text",
      silent: true,
      x: box.right + 8,
      y: place - 7,
      style: {
        text: one.name,
        fill,
        font: `${one.strong ? 600 : 400} ${one.note ? NOTE : 13}px ${frame.font}`,
        width: MARGIN.right - 12,
        overflow: "truncate",
      },
    };
    // a name that had to make room is led back to its line
    const apart = Math.abs(place - wish) > LABEL_GAP / 2;
    return apart ? [text, leader(box.right, wish, place, fill)] : [text];
  });
  if (shown.length < named.length) {
    labels.push({
      type: "text",
      silent: true,
      x: box.right + 8,
      y: box.bottom - 9,
      style: {
        text: `and ${named.length - shown.length} more`,
        fill: frame.palette.muted,
        font: `400 13px ${frame.font}`,
        width: MARGIN.right - 12,
        overflow: "truncate",
      },
    });
  }
  return labels;
}

function leader(x: number, from: number, to: number, stroke: string): object {
  return {
    type: "line",
    silent: true,
    shape: { x1: x + 1, y1: from, x2: x + 6, y2: to },
    style: { stroke, lineWidth: 1, opacity: 0.6 },
  };
}

export function axisName(figure: Figure, frame: Frame, box: Box): object[] {
  const title = figure.scales[0]?.title;
  if (!title) return [];
  return [
    {
      type: "text",
      silent: true,
      x: box.left - 46,
      y: box.top - 18,
      style: {
        text: title,
        fill: frame.palette.muted,
        font: `400 12px ${frame.font}`,
      },
    },
  ];
}
