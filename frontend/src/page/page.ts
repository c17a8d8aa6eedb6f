/** A picture on a page of its own, which opens without Zembra: values under the pointer, a window that is dragged, the numbers. */
import { groundOf } from "../picture/draw/colour";
import { sheetSvg } from "../picture/draw/picture";
import { sheetOf, type Sheet } from "../picture/draw/sheet";
import { nearestPeriod, periodsOf } from "../figure/reading";
import type { Figure } from "../figure/types";
import { readingBox, standing } from "./box";
import { drawStrip } from "./strip";
import { shownIn, type Stretch } from "./stretch";
import { drawTable } from "./table";
import { periodIn } from "./words";

const STEP = 0.2; // share of the window that a key moves it by

function found<T extends Element>(id: string): T {
  const element = document.getElementById(id);
  if (!element) throw new Error(`The page has no #${id}.`);
  return element as unknown as T;
}

const whole = JSON.parse(found("figure").textContent ?? "") as Figure;
const picture = found<HTMLElement>("picture");
const box = found<HTMLElement>("reading");
const periods = periodsOf(whole);
const full: Stretch = { start: whole.time?.start ?? 0, end: whole.time?.end ?? 1 };
let stretch: Stretch = full;
/** The periods of the stretch that is shown. */
let inside: number[] = [];
let sheet: Sheet;
let at: number | undefined;
const about = picture.getAttribute("aria-label") ?? "";

/** The picture, its overview and its numbers for a stretch of time. */
function show(wanted: Stretch): void {
  stretch = wanted;
  inside = periods.filter((t) => t >= stretch.start && t <= stretch.end);
  const figure = shownIn(whole, stretch);
  sheet = sheetOf(figure);
  picture.innerHTML = sheetSvg(sheet, { about });
  drawStrip(found("strip"), whole, stretch, full, show);
  drawTable(found("numbers"), figure, inside);
  found("stretch").textContent =
    `${periodIn(sheet.page, stretch.start, whole.grain)} – ${periodIn(sheet.page, stretch.end, whole.grain)}`;
  point(undefined);
}

/** What every line says at a period, beside an upright line there. */
function point(period: number | undefined): void {
  at = period;
  picture.querySelector("#standing")?.remove();
  box.hidden = period === undefined;
  if (period === undefined) return;
  const svg = picture.querySelector("svg");
  svg?.append(standing(sheet, period));
  box.replaceChildren(...readingBox(whole, sheet, period));
  const width = picture.clientWidth;
  const x = (sheet.toX(period) / sheet.width) * width;
  box.style.left = x > width * 0.55 ? "" : `${x + 12}px`;
  box.style.right = x > width * 0.55 ? `${width - x + 12}px` : "";
}

function timeAt(event: PointerEvent | WheelEvent): number {
  const { left, width } = picture.getBoundingClientRect();
  const plot = sheet.panels[0]?.box ?? { left: 0, right: sheet.width };
  const share =
    (((event.clientX - left) / width) * sheet.width - plot.left) / Math.max(1, plot.right - plot.left);
  return stretch.start + share * (stretch.end - stretch.start);
}

function within(start: number, end: number): Stretch {
  const least = (full.end - full.start) / 500;
  const length = Math.max(least, Math.min(end - start, full.end - full.start));
  const from = Math.max(full.start, Math.min(start, full.end - length));
  return { start: from, end: from + length };
}

let held: { time: number; from: Stretch } | undefined;
picture.addEventListener("pointerdown", (event) => {
  held = { time: timeAt(event), from: stretch };
  picture.setPointerCapture(event.pointerId);
});
picture.addEventListener("pointermove", (event) => {
  if (held && event.buttons) {
    const by = held.time - timeAt(event);
    if (Math.abs(by) > (stretch.end - stretch.start) / 400)
      show(within(stretch.start + by, stretch.end + by));
    return;
  }
  point(nearestPeriod(inside, timeAt(event)));
});
picture.addEventListener("pointerup", () => (held = undefined));
picture.addEventListener("pointerleave", () => point(undefined));
picture.addEventListener(
  "wheel",
  (event) => {
    event.preventDefault();
    zoom(event.deltaY > 0 ? 1.25 : 0.8, timeAt(event));
  },
  { passive: false },
);

function zoom(by: number, around: number): void {
  show(within(around - (around - stretch.start) * by, around + (stretch.end - around) * by));
}

picture.addEventListener("keydown", (event) => {
  const place = at === undefined ? inside.length : inside.indexOf(at);
  const length = stretch.end - stretch.start;
  const keys: Record<string, () => void> = {
    ArrowLeft: () => point(inside[Math.max(0, place - 1)]),
    ArrowRight: () => point(inside[Math.min(inside.length - 1, place + 1)]),
    PageUp: () => show(within(stretch.start - STEP * length, stretch.end - STEP * length)),
    PageDown: () => show(within(stretch.start + STEP * length, stretch.end + STEP * length)),
    "+": () => zoom(0.8, (stretch.start + stretch.end) / 2),
    "-": () => zoom(1.25, (stretch.start + stretch.end) / 2),
    Home: () => show(full),
    Escape: () => point(undefined),
  };
  const act = keys[event.key];
  if (!act) return;
  event.preventDefault();
  act();
});
found("all").addEventListener("click", () => show(full));
document.body.style.background = whole.page ? groundOf(whole.page) : "";
show(full);
