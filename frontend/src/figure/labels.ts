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

function seriesValue(one: Series, figure: Figure, n: number): number | null | undefined {
  if ("st".includes(one.c[n] ?? " ")) return undefined;
  if (figure.arrangement !== "stacked") return (figure.view === "before" ? one.before : one.v)[n];
  const [low, high] = [one.floor[n], one.top[n]];
  return typeof low === "number" && typeof high === "number" ? (low + high) / 2 : undefined;
}

/** What has a name at its end, with the height it ends at. */
export function namedEnds(panel: Panel, figure: Figure, frame: Frame): EndName[] {
  const named: EndName[] = [];
  const add = (text: string, value: number, ink: string, more: Pick<EndName, "strong" | "note">) =>
    named.push({ text, wish: panel.value.toPixel(value), ink, ...more });
  for (const one of panel.series) {
    const value = isHidden(one, figure)
      ? undefined
      : lastSeen(one.t, frame, (n) => seriesValue(one, figure, n));
    if (value !== undefined) add(one.called, value, colourOf(one, figure, frame.palette), { strong: true });
  }
  for (const one of figure.view === "before" ? [] : panel.shapes) {
    if (one.shape === "rule" && one.v !== null) {
      const colour = colourOf(one, figure, frame.palette);
      add(one.name, one.v, colour, { strong: false });
      add(formatNumber(one.v), one.v, colour, { strong: false, note: true });
    }
    if (one.shape !== "curve") continue;
    const value = lastSeen(one.t, frame, (n) => one.v[n]);
    if (value === undefined) continue;
    const colour = colourOf(one, figure, frame.palette);
    one.label.forEach((text, n) => {
      // what is said of a line stands whole, on as many lines as it needs
      const lines = n ? wrapped(text, NOTE, MARGIN.right - 12, MOST_LINES) : [fullName(one, figure, text)];
      for (const name of lines) add(name, value, colour, { strong: false, note: n > 0 });
    });
  }
  return named;
}
