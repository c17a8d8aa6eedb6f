/** Names at the ends of lines, the name of the value axis, and the title and key of a handed-over picture. */
import type { Figure, FigureLine } from "../api/client";
import { lineColour, MARGIN, type Frame, type Panel } from "./frame";
import { lowerBound, spread, type Box } from "./scale";
import type { Point } from "./strokes";

const LABEL_GAP = 15;

/** The last place a line is seen in the window. */
function lastSeen(line: FigureLine, figure: Figure, frame: Frame): Point | undefined {
  const stacked = figure.arrangement === "stacked" && line.role === "series";
  for (let n = lowerBound(line.t, frame.to + 1) - 1; n >= 0; n--) {
    const at = line.t[n] ?? 0;
    if (at < frame.from) return undefined;
    const value = (figure.view === "before" && !stacked ? line.before : line.v)?.[n];
    if (value === null || value === undefined || "st".includes(line.c[n] ?? " ")) continue;
    if (!stacked) return [at, value];
    const [low, high] = [line.floor?.[n], line.top?.[n]];
    if (typeof low === "number" && typeof high === "number") return [at, (low + high) / 2];
  }
  return undefined;
}

export function endLabels(panel: Panel, figure: Figure, frame: Frame, alone: boolean): object[] {
  const { box, range } = panel;
  const named = panel.lines
    .filter((line) => figure.view !== "before" || line.role === "series")
    .flatMap((line) => {
      const seen = lastSeen(line, figure, frame);
      if (!seen) return [];
      const share = ((seen[1] ?? 0) - range.min) / (range.max - range.min);
      return [{ line, wish: box.bottom - share * (box.bottom - box.top) }];
    });
  // what does not fit is counted: names on each other can be read by nobody
  const room = Math.max(1, Math.floor((box.bottom - box.top) / LABEL_GAP));
  const shown = named.length > room ? named.slice(0, room - 1) : named;
  const places = spread(
    shown.map((one) => one.wish),
    LABEL_GAP,
    box.top + 4,
    box.bottom - 2 - (shown.length < named.length ? LABEL_GAP : 0),
  );
  const labels: object[] = shown.flatMap((one, n) => {
    const place = places[n] ?? 0;
    const fill = lineColour(one.line, frame.palette, alone);
    const text = {
      type: "text",
      silent: true,
      x: box.right + 8,
      y: place - 7,
      style: {
        text: labelText(one.line, alone || figure.arrangement === "apart"),
        fill,
        font: `${one.line.role === "series" ? 600 : 400} 13px ${frame.font}`,
        width: MARGIN.right - 12,
        overflow: "truncate",
      },
    };
    // a name that had to make room is led back to its line
    const apart = Math.abs(place - one.wish) > LABEL_GAP / 2;
    return apart ? [text, leader(box.right, one.wish, place, fill)] : [text];
  });
  if (shown.length < named.length) {
    labels.push({
      type: "text",
      silent: true,
      x: box.right + 8,
      y: box.bottom - LABEL_GAP,
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

function labelText(line: FigureLine, alone: boolean): string {
  if (line.role === "series" || alone) return line.name;
  return `${line.series}, ${line.name}`;
}

export function axisName(figure: Figure, frame: Frame, box: Box): object[] {
  if (!figure.measure) return [];
  return [
    {
      type: "text",
      silent: true,
      x: box.left - 46,
      y: box.top - 18,
      style: {
        text: figure.measure,
        fill: frame.palette.muted,
        font: `400 12px ${frame.font}`,
      },
    },
  ];
}

/** Title above and key of shapes and textures below, for a picture that stands alone. */
export function titleAndKey(figure: Figure, frame: Frame, box: Box): object[] {
  const { palette } = frame;
  const codes = new Set(figure.lines.flatMap((line) => [...line.c]));
  const key = [
    { codes: "m", text: "━ measured" },
    { codes: "f", text: "◇ filled" },
    { codes: "bt", text: "╌ bridged" },
    { codes: "st", text: "○ set aside" },
    { codes: "a", text: "△ adjusted" },
    { codes: "p", text: "▥ provisional" },
    { codes: "q", text: "┅ resting on provisional" },
    { codes: "j", text: "▨ projected, with limits" },
  ].filter(
    (one) =>
      [...one.codes].some((code) => codes.has(code)) && (figure.view !== "before" || one.codes === "m"),
  );
  return [
    {
      type: "text",
      x: 16,
      y: 14,
      style: { text: figure.title, fill: palette.ink, font: `600 18px ${frame.titleFont ?? frame.font}` },
    },
    {
      type: "text",
      x: box.left,
      y: frame.height - 26,
      style: {
        text: `${key.map((one) => one.text).join("     ")}     as of ${figure.as_of}`,
        fill: palette.muted,
        font: `400 12.5px ${frame.font}`,
      },
    },
  ];
}
