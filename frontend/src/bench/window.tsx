import { Segmented } from "antd";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { api, told, type Figure } from "../api/client";
import { fullWindow } from "../figure/frame";
import type { BenchHandle } from "./useBench";

export interface ShownWindow {
  range: [number, number];
  full: [number, number];
  set: (range: [number, number] | undefined) => void;
}

const DAY = 86_400_000;
const PRESETS: [string, number][] = [
  ["3 years", 3 * 366 * DAY],
  ["1 year", 366 * DAY],
  ["6 months", 184 * DAY],
  ["2 months", 62 * DAY],
];

/** The stretch of time the chart shows; everything until the analyst narrows it. */
export function useWindow(figure: Figure | undefined): ShownWindow {
  const [chosen, setChosen] = useState<[number, number]>();
  const full = useMemo<[number, number]>(() => (figure ? fullWindow(figure) : [0, 1]), [figure]);
  const range = useMemo<[number, number]>(() => {
    if (!chosen) return full;
    const from = Math.max(full[0], Math.min(chosen[0], full[1] - DAY / 24));
    const to = Math.min(full[1], Math.max(chosen[1], from + DAY / 24));
    return [from, to];
  }, [chosen, full]);
  return { range, full, set: setChosen };
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
      told<Figure>(
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

export function WindowPresets({ shown, figure }: { shown: ShownWindow; figure: Figure }) {
  const [from, to] = shown.range;
  const length = shown.full[1] - shown.full[0];
  const usable = PRESETS.filter(([, span]) => span < length * 0.98);
  const current =
    from === shown.full[0] && to === shown.full[1]
      ? "All"
      : (usable.find(([, span]) => Math.abs(to - from - span) < DAY)?.[0] ?? "");
  if (!figure.series.length || !usable.length) return null;
  return (
    <Segmented
      size="small"
      value={current}
      options={["All", ...usable.map(([name]) => name)]}
      onChange={(name) => {
        const span = usable.find(([preset]) => preset === name)?.[1];
        shown.set(span ? [shown.full[1] - span, shown.full[1]] : undefined);
      }}
    />
  );
}
