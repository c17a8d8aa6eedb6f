import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Schemas } from "../api/client";
import { answered, type SoFar } from "../api/waiting";
import type { About } from "./about";

export type JudgingWords = Partial<Record<"ahead" | "starts" | "apart", number>> & { seasons?: number[] };

const LOOKED = 900; // milliseconds between two looks at work under way

interface Asked {
  study: number;
  revision: number;
  entry: string;
  about: About;
  words: JudgingWords;
}

/** One series judged, or the sum of all. */
export function useJudged({ study, revision, entry, about, words }: Asked) {
  return useQuery({
    queryKey: ["judging", study, revision, entry, about, words],
    enabled: about !== "every",
    retry: false,
    queryFn: ({ signal }) =>
      answered<Schemas["JudgedView"]>(
        `/api/studies/${study}/judging?${query({
          entry,
          series: typeof about === "string" ? "" : about.series,
          together: String(about === "together"),
          ...sent(words),
        })}`,
        signal,
      ),
    refetchInterval: ({ state }) => pause(state.data),
    // what was judged before stands until the first of the new verdicts is there
    placeholderData: keepPreviousData,
  });
}

/** Every series at a glance. */
export function useEverySeries({ study, revision, entry, about, words }: Asked) {
  return useQuery({
    queryKey: ["judging every series", study, revision, entry, words],
    enabled: about === "every",
    retry: false,
    queryFn: ({ signal }) =>
      answered<Schemas["EverySeriesView"]>(
        `/api/studies/${study}/judging/series?${query({ entry, ...sent(words) })}`,
        signal,
      ),
    refetchInterval: ({ state }) => pause(state.data),
  });
}

function pause(found: SoFar<unknown> | undefined): number | false {
  return found?.work && found.work.stage !== "stopped" ? LOOKED : false;
}

function query(words: Record<string, string | number>): string {
  return new URLSearchParams(Object.entries(words).map(([name, value]) => [name, String(value)])).toString();
}

function sent({ seasons, ...words }: JudgingWords) {
  return seasons?.length ? { ...words, seasons: seasons.join(",") } : words;
}
