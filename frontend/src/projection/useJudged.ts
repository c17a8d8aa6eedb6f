import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, told, type Schemas } from "../api/client";
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

function underWay(found: { work: Schemas["WorkView"] | null } | undefined): boolean {
  return Boolean(found?.work && ["waiting", "working"].includes(found.work.stage));
}

/** One series judged, or the sum of all. */
export function useJudged({ study, revision, entry, about, words }: Asked) {
  return useQuery({
    queryKey: ["judging", study, revision, entry, about, words],
    enabled: about !== "every",
    retry: false,
    queryFn: () =>
      told<Schemas["JudgedView"]>(
        api.GET("/api/studies/{study_id}/judging", {
          params: {
            path: { study_id: study },
            query: {
              entry,
              series: typeof about === "string" ? "" : about.series,
              together: about === "together",
              ...sent(words),
            },
          },
        }),
      ),
    refetchInterval: ({ state }) => (underWay(state.data) ? LOOKED : false),
    // what was judged before stands until the first of the new verdicts is there
    placeholderData: keepPreviousData,
  });
}

function sent({ seasons, ...words }: JudgingWords) {
  return seasons?.length ? { ...words, seasons: seasons.join(",") } : words;
}

/** Every series at a glance. */
export function useEverySeries({ study, revision, entry, about, words }: Asked) {
  return useQuery({
    queryKey: ["judging every series", study, revision, entry, words],
    enabled: about === "every",
    retry: false,
    queryFn: () =>
      told<Schemas["EverySeriesView"]>(
        api.GET("/api/studies/{study_id}/judging/series", {
          params: { path: { study_id: study }, query: { entry, ...sent(words) } },
        }),
      ),
    refetchInterval: ({ state }) => (underWay(state.data) ? LOOKED : false),
  });
}
