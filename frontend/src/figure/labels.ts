/** What has a name at its end on the bench. */
import { formatNumber } from "../ui/format";
import { NOTE, type EndName } from "./endnames";
import { colourOf, fullName, isHidden, MARGIN, type Frame, type Panel } from "./frame";
import { lowerBound } from "./scale";
import { wrapped } from "./text";
import type { Figure, Series } from "./types";

const MOST_LINES = 4;

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

function seriesValue(series: Series, figure: Figure, n: number): number | null | undefined {
  if ("st".includes(series.c[n] ?? " ")) return undefined;
  if (figure.arrangement !== "stacked") return (figure.view === "before" ? series.before : series.v)[n];
  const [low, high] = [series.floor[n], series.top[n]];
  return typeof low === "number" && typeof high === "number" ? (low + high) / 2 : undefined;
}

/** What has a name at its end, with the height it ends at. */
export function namedEnds(panel: Panel, figure: Figure, frame: Frame): EndName[] {
  const named: EndName[] = [];
  const add = (text: string, value: number, ink: string, more: Pick<EndName, "strong" | "note">) =>
    named.push({ text, wish: panel.value.toPixel(value), ink, ...more });
  for (const series of panel.series) {
    const value = isHidden(series, figure)
      ? undefined
      : lastSeen(series.t, frame, (n) => seriesValue(series, figure, n));
    if (value !== undefined)
      add(series.called, value, colourOf(series, figure, frame.palette), { strong: true });
  }
  for (const shape of figure.view === "before" ? [] : panel.shapes) {
    if (shape.shape === "rule" && shape.v !== null) {
      const colour = colourOf(shape, figure, frame.palette);
      add(shape.name, shape.v, colour, { strong: false });
      add(formatNumber(shape.v), shape.v, colour, { strong: false, note: true });
    }
    if (shape.shape !== "curve") continue;
    const value = lastSeen(shape.t, frame, (n) => shape.v[n]);
    if (value === undefined) continue;
    const colour = colourOf(shape, figure, frame.palette);
    shape.label.forEach((text, n) => {
      // what is said of a line stands whole, on as many lines as it needs
      const lines = n ? wrapped(text, NOTE, MARGIN.right - 12, MOST_LINES) : [fullName(shape, figure, text)];
      for (const name of lines) add(name, value, colour, { strong: false, note: n > 0 });
    });
  }
  return named;
}
