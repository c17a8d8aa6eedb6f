/** What stands at a period: the upright line in the picture, and the box beside it. */
import { colourOf } from "../picture/draw/colour";
import type { Sheet } from "../picture/draw/sheet";
import { eventsAt, readingsAt } from "../figure/reading";
import type { Figure } from "../figure/types";
import { element, limitsIn, numberIn, periodIn } from "./words";

const SVG = "http://www.w3.org/2000/svg";
const MOST_READ = 14;

export function standing(sheet: Sheet, period: number): SVGElement {
  const line = document.createElementNS(SVG, "line");
  const x = String(sheet.toX(period));
  const [top, bottom] = [sheet.panels[0]?.box.top ?? 0, sheet.panels.at(-1)?.box.bottom ?? 0];
  const look = {
    id: "standing",
    x1: x,
    x2: x,
    y1: String(top),
    y2: String(bottom),
    stroke: sheet.palette.ink,
  };
  for (const [name, value] of Object.entries({ ...look, "stroke-width": "0.8", "stroke-dasharray": "3 3" }))
    line.setAttribute(name, value);
  return line;
}

export function readingBox(figure: Figure, sheet: Sheet, period: number): HTMLElement[] {
  const { page } = sheet;
  const readings = readingsAt(figure, period);
  const rows = readings.slice(0, MOST_READ).map(({ of, name, value, remarks, away, limits }) => {
    const swatch = element("i");
    if (of.look) swatch.style.background = colourOf(of.look.colour, page);
    return element("div", [
      swatch,
      element("span", [of.look?.name ?? name]),
      element("b", [numberIn(page, value)]),
      ...[...remarks, ...away, ...limitsIn(page, { limits })].map((text) => element("em", [text])),
    ]);
  });
  const more = readings.length - rows.length;
  return [
    element("h2", [periodIn(page, period, figure.grain)]),
    ...eventsAt(figure, period).map((text) => element("p", [`⚑ ${text}`])),
    ...rows,
    ...(more > 0 ? [element("p", [`and ${more} more lines`])] : []),
  ];
}
