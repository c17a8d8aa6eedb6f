import { fullName, timesOf } from "./frame";
import { lowerBound } from "./scale";
import { formatSigned } from "../ui/format";
import { shapesOf, type Curve, type Figure, type Series } from "./types";

/** Every period anything in the figure has, in order. */
export function periodsOf(figure: Figure): number[] {
  return [...new Set(timesOf(figure).flat())].sort((a, b) => a - b);
}

export function nearestPeriod(periods: number[], time: number): number | undefined {
  const at = lowerBound(periods, time);
  const before = periods[at - 1];
  const after = periods[at];
  if (before === undefined) return after;
  if (after === undefined) return before;
  return time - before < after - time ? before : after;
}

const RECEIVED: Record<string, string> = { b: "blank", a: "absent", u: "unreadable" };

/** The word for a letter of conditions. */
export function wordFor(figure: Figure, code: string | undefined): string {
  return (code && figure.signs.find((sign) => sign.codes.includes(code))?.word) || "";
}

export interface Reading {
  of: Series | Curve;
  name: string;
  value: number | null;
  /** What is said of it besides: its condition, what came, what it rests on, its limits. */
  remarks: string[];
  /** How far it is from the lines it is held against. */
  away: string[];
  limits: { name: string; lower: number | null; upper: number | null }[];
}

/** The names of the events that a period lies within. */
export function eventsAt(figure: Figure, period: number): string[] {
  return shapesOf(figure, "flags").flatMap((flags) =>
    flags.names.filter((_, n) => (flags.first[n] ?? 0) <= period && period <= (flags.last[n] ?? 0)),
  );
}

/** How far a value of a series is from the lines it is held against. */
function distancesAt(figure: Figure, series: string, value: number | null): [string, number][] {
  if (value === null) return [];
  return shapesOf(figure, "rule", series).flatMap((rule): [string, number][] =>
    rule.v === null ? [] : [[rule.name, value - rule.v]],
  );
}

/** What everything in the figure says at a period. */
export function readingsAt(figure: Figure, period: number): Reading[] {
  const before = figure.view === "before";
  const place = (t: number[]) => {
    const n = lowerBound(t, period);
    return t[n] === period ? n : undefined;
  };
  const series = figure.series.flatMap((line): Reading[] => {
    const n = place(line.t);
    if (n === undefined) return [];
    const word = wordFor(figure, line.c[n]);
    const came = RECEIVED[line.r[n] ?? ""];
    const remarks = word === "measured" ? "" : word + (came && came !== word ? `, came ${came}` : "");
    const value = (before ? line.before : line.v)[n] ?? null;
    const away = distancesAt(figure, line.name, value).map(
      ([name, by]) => `${formatSigned(by)} from ${name}`,
    );
    return [{ of: line, name: line.called, value, remarks: remarks ? [remarks] : [], away, limits: [] }];
  });
  const curves = shapesOf(figure, "curve").flatMap((curve): Reading[] => {
    const n = place(curve.t);
    if (n === undefined) return [];
    const remarks =
      curve.rests !== "measured" ? [curve.rests] : curve.faded.includes(n) ? ["rests on provisional"] : [];
    const limits = shapesOf(figure, "area", curve.series)
      .filter((area) => area.of === curve.id)
      .flatMap((area) => {
        const at = place(area.t);
        return at === undefined
          ? []
          : [
              {
                name: area.level === null ? area.name : `${area.level} %`,
                lower: area.lower[at] ?? null,
                upper: area.upper[at] ?? null,
              },
            ];
      });
    return [
      { of: curve, name: fullName(curve, figure), value: curve.v[n] ?? null, remarks, away: [], limits },
    ];
  });
  return [...series, ...curves];
}
