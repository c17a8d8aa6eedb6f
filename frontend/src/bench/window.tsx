import { InputNumber, Segmented } from "antd";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { api, dataOf, type Figure } from "../api/client";
import { fullWindow } from "../figure/frame";
import type { BenchHandle } from "./useBench";

export interface ShownWindow {
  range: [number, number];
  full: [number, number];
  set: (range: [number, number] | undefined) => void;
}

const DAY = 86_400_000;
const PRESETS: [string, number][] = [
  ["10 years", 10 * 365.25 * DAY],
  ["3 years", 3 * 366 * DAY],
  ["1 year", 366 * DAY],
  ["6 months", 184 * DAY],
  ["2 months", 62 * DAY],
  ["2 weeks", 14 * DAY],
  ["2 days", 2 * DAY],
];
/** Presets shown at once: those that fit the length of what there is and the size of its periods. */
const MOST_PRESETS = 4;
const FEWEST_PERIODS = 10;

/** The stretch of time the chart shows; everything until the analyst narrows it. */
export function useWindow(figure: Figure | undefined): ShownWindow {
  const [chosen, setChosen] = useState<[number, number]>();
  // until all of it is asked for, the stretch that the figure sentence opens with is shown
  const [opened, setOpened] = useState(true);
  const full = useMemo<[number, number]>(() => (figure ? fullWindow(figure) : [0, 1]), [figure]);
  const range = useMemo<[number, number]>(() => {
    const opens = opened ? figure?.opens : undefined;
    const wanted = chosen ?? (opens ? [opens.start, opens.end] : undefined);
    if (!wanted) return full;
    const from = Math.max(full[0], Math.min(wanted[0] ?? full[0], full[1] - DAY / 24));
    const to = Math.min(full[1], Math.max(wanted[1] ?? full[1], from + DAY / 24));
    return [from, to];
  }, [chosen, full, opened, figure?.opens]);
  const set = useCallback((wanted: [number, number] | undefined) => {
    setOpened(false);
    setChosen(wanted);
  }, []);
  return { range, full, set };
}

/**
 * The figure for the shown window: a long line comes thinned, and is asked for again when the window
 * moves. While a word is changed the preview is thinned to the window already.
 */
export function useFigure(handle: BenchHandle, range: [number, number]): Figure | undefined {
  const { bench, kept, showing } = handle;
  const thinned = Boolean(bench?.figure.thinned);
  const [asked, setAsked] = useState(range);
  useEffect(() => {
    showing(thinned ? [Math.round(range[0]), Math.round(range[1])] : undefined);
    const later = setTimeout(() => setAsked(range), 150);
    return () => clearTimeout(later);
  }, [range, thinned, showing]);
  const closer = useQuery({
    queryKey: ["figure", kept?.study.id, kept?.study.revision, ...asked],
    enabled: thinned && bench === kept,
    placeholderData: keepPreviousData,
    queryFn: () =>
      dataOf<Figure>(
        api.GET("/api/studies/{study_id}/figure", {
          params: {
            path: { study_id: kept?.study.id ?? 0 },
            query: { start: Math.round(asked[0]), end: Math.round(asked[1]) },
          },
        }),
      ),
  });
  return thinned && bench === kept ? (closer.data ?? bench?.figure) : bench?.figure;
}

/** A stretch of a length that ends with the newest number, and shows what lies beyond it in a third more. */
function around(figure: Figure, full: [number, number], span: number): [number, number] {
  const ends = figure.series.flatMap(
    (series) => series.t[series.v.findLastIndex((value) => value !== null)] ?? [],
  );
  const last = Math.max(...ends, full[0]);
  const to = Math.min(full[1], last + span / 3);
  return [Math.max(full[0], to - span), to];
}

export function WindowPresets({ shown, figure }: { shown: ShownWindow; figure: Figure }) {
  const [from, to] = shown.range;
  const length = shown.full[1] - shown.full[0];
  const t = figure.series[0]?.t ?? [];
  const step = t.length > 1 ? ((t.at(-1) ?? 0) - (t[0] ?? 0)) / (t.length - 1) : DAY;
  const usable = PRESETS.filter(
    ([, span]) => span < length * 0.98 && span >= FEWEST_PERIODS * Math.min(step, DAY * 366),
  ).slice(0, MOST_PRESETS);
  const current =
    from === shown.full[0] && to === shown.full[1]
      ? "All"
      : (usable.find(([, span]) => Math.abs(to - from - span) < DAY)?.[0] ?? "");
  if (!figure.series.length) return null;
  const lastPeriods = (count: number | null) => {
    const first = count && t.at(-Math.min(count, t.length));
    if (first !== undefined && first !== null && first !== 0) shown.set([first, shown.full[1]]);
  };
  return (
    <>
      <Segmented
        size="small"
        value={current}
        options={["All", ...usable.map(([name]) => name)]}
        onChange={(name) => {
          const span = usable.find(([preset]) => preset === name)?.[1];
          shown.set(span ? around(figure, shown.full, span) : undefined);
        }}
      />
      <label className="last-periods">
        the last
        <InputNumber
          size="small"
          min={2}
          controls={false}
          placeholder="…"
          onPressEnter={(event) => lastPeriods(Number(event.currentTarget.value) || null)}
          onBlur={(event) => lastPeriods(Number(event.currentTarget.value) || null)}
        />
        {figure.periods}
      </label>
    </>
  );
}
