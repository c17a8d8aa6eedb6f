/** What is said at a period: rules of level shifts, moves and notes, placed so that no text covers another. */
import type { Figure } from "../api/client";
import type { Palette } from "../app/theme";
import { lineColour, type Frame, type Panel } from "./frame";

const LETTER = 6.4;
const ROW = 14;

export function markGraphics(panel: Panel, figure: Figure, frame: Frame, alone: boolean): object[] {
  const { box, range } = panel;
  const series = new Set(panel.lines.map((line) => line.series));
  const toX = (t: number) => box.left + ((t - frame.from) / (frame.to - frame.from)) * (box.right - box.left);
  const toY = (v: number) =>
    box.bottom - ((v - range.min) / (range.max - range.min)) * (box.bottom - box.top);
  const taken: { left: number; right: number; y: number }[] = [];
  const place = (left: number, width: number, wish: number) => {
    let y = wish;
    const hits = () =>
      taken.some((one) => left < one.right && left + width > one.left && Math.abs(one.y - y) < ROW);
    for (let tries = 0; hits() && tries < 8; tries++) y += ROW;
    taken.push({ left, right: left + width, y });
    return y;
  };
  const shown = (figure.marks ?? []).filter(
    (mark) => series.has(mark.series) && mark.t >= frame.from && mark.t <= frame.to,
  );
  const rules = shown.filter((mark) => mark.kind === "shift").map((mark) => toX(mark.t));
  const crossed = (left: number, width: number) => rules.some((at) => left < at + 3 && left + width > at - 3);
  return shown.flatMap((mark) => {
    const x = toX(mark.t);
    const width = mark.text.length * LETTER;
    const colour =
      markColour(mark.kind, frame.palette) ??
      lineColour({ ...mark, role: "series" } as never, frame.palette, alone);
    if (mark.kind === "shift") {
      const left = Math.max(box.left, Math.min(x - width / 2, box.right - width));
      const y = place(left, width, box.top - 14);
      return [
        {
          type: "line",
          silent: true,
          shape: { x1: x, y1: box.top, x2: x, y2: box.bottom },
          style: { stroke: frame.palette.ink, lineWidth: 1, lineDash: [6, 2] },
        },
        label(mark.text, left, y, colour, frame),
      ];
    }
    const y = toY(mark.v ?? range.min);
    const onLeft = x + width + 14 > box.right || (crossed(x + 9, width) && !crossed(x - width - 10, width));
    const left = onLeft ? x - width - 10 : x + 9;
    const ring = {
      type: "circle",
      silent: true,
      shape: { cx: x, cy: y, r: 5 },
      style: { stroke: colour, fill: "none", lineWidth: 1.4 },
    };
    if (!mark.text) return [ring];
    return [ring, label(mark.text, left, place(left, width, y + lift(mark)), colour, frame)];
  });
}

/** A move is named above or below its value, where the line does not run; a note beside it. */
function lift(mark: { kind: string; text: string }): number {
  if (mark.kind !== "move") return -7;
  return mark.text.startsWith("+") ? -20 : 7;
}

function markColour(kind: string, palette: Palette): string | undefined {
  return { shift: palette.ember, note: palette.ember, kept: palette.ember, move: palette.ink }[kind];
}

function label(text: string, x: number, y: number, fill: string, frame: Frame): object {
  return {
    type: "text",
    silent: true,
    x,
    y,
    style: { text, fill, font: `400 12px ${frame.font}`, stroke: frame.palette.paper, lineWidth: 3 },
  };
}
