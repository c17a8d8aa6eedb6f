/** Where everything stands on the sheet of a picture. Pure. */
import type { Palette } from "../../figure/palette";
import { TICK } from "../../figure/axes";
import { ENGLISH, timeScale, type Box, type Tick } from "../../figure/scale";
import type { Bars, Curve, Figure, Series, Shape, Sign } from "../../figure/types";
import { groundOf, paletteOf } from "./colour";
import { fitted, widthOf, wrapped } from "../../figure/text";
import { calendarTicks, valueAxis, type ValueAxis } from "./axes";

export type Look = NonNullable<Series["look"]>;
/** With a look: a line of the picture. */
export type Dressed<T> = T & { look: Look };
export type Line = Dressed<Series | Shape>;
/** A line with a value at each period. */
export type OverTime = Dressed<Series | Curve | Bars>;
export type Page = NonNullable<Figure["page"]>;
export type TimeLook = NonNullable<Figure["time"]>;

const RIGHT = "right";
/** The sign of limits that were not tested. */
export const UNTESTED = "y";
export const SMALL = 11.5;
export const TEXT = 13;
export const PAD = 16; // round everything
const GAP_BETWEEN = 14;

/** A chart of its own on the sheet. */
export interface Panel {
  box: Box;
  lines: Line[];
  left: ValueAxis;
  right: ValueAxis | undefined;
}

export interface Sheet {
  figure: Figure;
  page: Page;
  time: TimeLook;
  palette: Palette;
  ground: string;
  /** In units of the drawing: pixels over the text factor. */
  width: number;
  height: number;
  title: string[];
  titleSize: number;
  under: string[];
  panels: Panel[];
  toX: (at: number) => number;
  ticks: Tick[];
  /** The room that the title of the time axis takes. */
  underTime: number;
  /** What stands below the chart: the key, what patterns mean, and the feet with where the first of them stands. */
  key: { thing: Line; x: number }[][];
  signs: { thing: Sign; x: number }[][];
  feet: { left: string[]; right: string };
  feetTop: number;
}

export function isSeries(line: Line): line is Dressed<Series> {
  return !("shape" in line);
}

/** A line's key in the dress: its name for a series, its id for a shape. */
export function keyOf(line: Line): string {
  return isSeries(line) ? line.name : line.id;
}

/** What Zembra itself says in a picture, in its reader's words. one: of n = 1, in English. */
export function said(page: Page, english: string, n?: number, one = english): string {
  const text = page.tongue?.words[english] ?? (n === 1 ? one : english);
  return text.replace("{n}", String(n));
}

/** All lines of a figure from the back to the front. */
export function linesOf(figure: Figure): Line[] {
  return [...figure.series, ...figure.shapes]
    .filter((drawn): drawn is Line => Boolean(drawn.look))
    .sort((a, b) => a.look.order - b.look.order);
}

export function sheetOf(figure: Figure): Sheet {
  const { page, time } = figure;
  if (!page || !time) throw new Error("A figure without a page is no picture.");
  const width = page.width / page.text;
  const height = page.height / page.text;
  const lines = linesOf(figure);
  const inner = width - 2 * PAD;
  const titleSize = Math.max(15, Math.min(24, width * 0.021));
  const title = page.title ? wrapped(page.title, titleSize, inner, 2, "serif600") : [];
  const under = page.under ? wrapped(page.under, TEXT, inner, 2) : [];
  const key = lines.filter((line) => line.look.named === "key");
  const feet = feetOf(page, inner);
  const top =
    PAD + title.length * titleSize * 1.25 + under.length * 18 + (title.length || under.length ? 6 : 0);
  const feetTop = height - PAD - feet.left.length * 15 + 11;
  const rows = {
    key: rowsOf(key, (drawn) => drawn.look.name, inner),
    signs: rowsOf(signsOf(figure, page, time), (sign) => sign.word, inner),
  };
  const keyRows = rows.key.length + rows.signs.length;
  const foot = feet.left.length || feet.right ? Math.max(1, feet.left.length) * 15 + 6 : 0;
  const underTime = time.title ? 16 : 0;
  const bottom = height - PAD - foot - keyRows * 18 - 24 - underTime;
  const apart = figure.arrangement === "apart" && figure.series.length > 1;
  const groups = apart ? apartOf(figure, lines) : [lines];
  const named = lines.filter((line) => line.look.named === "end");
  const names = Math.max(
    0,
    // a line held against says its number too
    ...named.flatMap((dressed) => [
      widthOf(dressed.look.name + (dressed.look.role === "rule" ? ", 0 000" : ""), TEXT, "sans600"),
      ...dressed.look.under.map((text) => widthOf(text, SMALL)),
    ]),
  );
  const nameRoom = named.length ? Math.min(names + 14, width * 0.3) : 8;
  const trial = groups.map((group) => axesOf(figure, group, { left: 0, right: 100, top: 0, bottom: 100 }));
  const numbers = (axes: (ValueAxis | undefined)[]) =>
    Math.max(
      0,
      ...axes.flatMap((axis) =>
        axis?.view.numbers ? axis.ticks.map((tick) => widthOf(tick.label, TICK)) : [],
      ),
    );
  const left = PAD + numbers(trial.map((axes) => axes.left)) + 8;
  const rights = trial.map((axes) => axes.right).filter(Boolean);
  const right = width - PAD - nameRoom - (rights.length ? numbers(rights) + 12 : 0);
  const above = lines.length && figure.scales.some((scale) => scale.title) ? 27 : 8;
  const room = Math.max(40, bottom - top - above);
  const each = (room - GAP_BETWEEN * (groups.length - 1)) / groups.length;
  const panels = groups.map((group, n) => {
    const start = top + above + n * (each + GAP_BETWEEN);
    const box = { left, right: Math.max(right, left + 40), top: start, bottom: start + each };
    return { box, lines: group, ...axesOf(figure, group, box) };
  });
  const plot = panels[0]?.box ?? { left, right, top, bottom };
  const words = page.tongue ?? ENGLISH;
  const across = timeScale(time.start, time.end, [plot.left, plot.right], words);
  return {
    figure,
    page,
    time,
    palette: paletteOf(page),
    ground: groundOf(page),
    width,
    height,
    title,
    titleSize,
    under,
    panels,
    toX: across.toPixel,
    ticks: time.ticks === "fit" ? [...across.ticks] : calendarTicks(time, plot.right - plot.left, words),
    underTime,
    key: rows.key,
    signs: rows.signs,
    feet,
    feetTop,
  };
}

function axesOf(figure: Figure, lines: Line[], box: Box): { left: ValueAxis; right: ValueAxis | undefined } {
  const [first, second] = figure.scales;
  const on = (right: boolean) => lines.filter((line) => (line.look.side === RIGHT) === right);
  if (!first) throw new Error("A figure has a scale.");
  if (!second) return { left: valueAxis(figure, first, lines, box), right: undefined };
  if (second.same) {
    const both = valueAxis(figure, first, lines, box);
    return { left: both, right: both };
  }
  return { left: valueAxis(figure, first, on(false), box), right: valueAxis(figure, second, on(true), box) };
}

function apartOf(figure: Figure, lines: Line[]): Line[][] {
  return figure.series.map((series) =>
    lines.filter((line) =>
      isSeries(line) ? line.name === series.name : [series.name, ""].includes(line.series),
    ),
  );
}

function feetOf(page: Page, inner: number): Sheet["feet"] {
  const right = fitted(page.foot, SMALL, inner * 0.6);
  const room = inner - (right ? widthOf(right, SMALL) + 20 : 0);
  const notes = [page.warning, page.footnote].filter(Boolean);
  const left = notes.flatMap((note) => wrapped(note, SMALL, Math.max(80, room), 3));
  return { left: left.length || !right ? left : [""], right };
}

export const SWATCH = 22;
export const BESIDE = 8; // between a swatch and its text
const NEXT = 18;

/** Things with a swatch and a text each, flowed into rows: each with where it begins in its row. */
function rowsOf<T>(things: T[], textOf: (thing: T) => string, inner: number): { thing: T; x: number }[][] {
  const rows: { thing: T; x: number }[][] = [];
  let x = Infinity;
  for (const thing of things) {
    const width = SWATCH + BESIDE + widthOf(textOf(thing), SMALL) + NEXT;
    if (x + width > inner) {
      rows.push([]);
      x = 0;
    }
    rows.at(-1)?.push({ thing, x });
    x += width;
  }
  return rows;
}

/** The conditions that occur in what is drawn, each to be explained. */
function signsOf(figure: Figure, page: Page, time: TimeLook): Sign[] {
  if (!page.said) return [];
  const codes = new Set<string>();
  for (const series of figure.series)
    series.t.forEach((at, n) => {
      if (within(at, { time })) codes.add(series.c[n] ?? "");
    });
  if (figure.shapes.some((shape) => shape.shape === "curve" && shape.faded.length)) codes.add("q");
  if (figure.shapes.some((shape) => shape.rests === "projected")) codes.add("j");
  if (
    figure.shapes.some(
      (shape) => shape.shape === "area" && shape.tested !== null && shape.tested < shape.t.length,
    )
  )
    codes.add(UNTESTED);
  return figure.signs.filter(
    (sign) => sign.glyph && sign.codes !== "m" && [...sign.codes].some((code) => codes.has(code)),
  );
}

/** The axis that a line stands on. */
export function axisOf(line: Line, panel: Panel): ValueAxis {
  return line.look.side === RIGHT && panel.right ? panel.right : panel.left;
}

/** Whether a moment is in the picture. */
export function within(t: number | undefined, { time }: { time: TimeLook }): boolean {
  return t !== undefined && t >= time.start && t <= time.end;
}
