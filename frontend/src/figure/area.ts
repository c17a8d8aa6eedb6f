/** Areas as polygons, hatched where they are not measured. */
import type { Frame, Panel } from "./frame";
import { at, planeOf, type Drawn } from "./ink";
import { filled, hatched, outline } from "./lineink";
import { quietArea } from "./quiet";
import type { Area } from "./types";

const MEASURED = 0.1; // strength of a fill

/** The stretch of an area that is drawn, quieter where its points are too close to be told apart. */
export function drawArea(whole: Area, panel: Panel, colour: string, frame: Frame): Drawn[] {
  const width = panel.box.right - panel.box.left;
  return partsOf(whole).flatMap(({ part, sure }) => {
    const area = quietArea(part, frame.from, frame.to, width);
    const d = outline(area.t, area.lower, area.upper, planeOf(panel), "straight");
    return at(1, whole.rests === "measured" ? filled(d, colour, MEASURED) : hatched(d, colour, sure));
  });
}

/** An area as far as it was held against what happened, and beyond; both have the point where they meet. */
export function partsOf(area: Area): { part: Area; sure: boolean }[] {
  const { tested } = area;
  if (tested === null || tested >= area.t.length) return [{ part: area, sure: true }];
  const cut = (from: number, to?: number): Area => ({
    ...area,
    t: area.t.slice(from, to),
    lower: area.lower.slice(from, to),
    upper: area.upper.slice(from, to),
  });
  const beyond = { part: cut(Math.max(0, tested - 1)), sure: false };
  return tested > 0 ? [{ part: cut(0, tested), sure: true }, beyond] : [beyond];
}
