import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { api, dataOf, Trouble, type Schemas } from "../api/client";
import { useLatest } from "../ui/latest";
import type { Picture } from "./edits";

export type PictureView = Schemas["PictureView"];

interface Handle {
  kept: PictureView | undefined;
  /** What is shown: a preview while a word is changed. */
  view: PictureView | undefined;
  error: unknown;
  trouble: Trouble | undefined;
  preview: (picture: Picture | undefined) => void;
}

/** A picture of a study as it is kept at a revision, and previewed while it is changed. waiting: how many entries are
 * still being carried out; with each that is done there is more to see. */
export function usePicture(
  study: number,
  revision: number | undefined,
  place: number,
  waiting: number,
): Handle {
  const query = useQuery({
    queryKey: ["picture", study, revision, place, waiting],
    enabled: revision !== undefined,
    placeholderData: keepPreviousData,
    queryFn: () =>
      dataOf<PictureView>(
        api.GET("/api/studies/{study_id}/pictures/{place}", {
          params: { path: { study_id: study, place } },
        }),
      ),
  });
  const [previewed, setPreviewed] = useState<PictureView>();
  const [trouble, setTrouble] = useState<Trouble>();
  const { now, ask } = useLatest<Picture>(async (picture) => {
    try {
      const answer = await dataOf<PictureView>(
        api.POST("/api/studies/{study_id}/pictures/{place}/preview", {
          params: { path: { study_id: study, place } },
          body: { picture },
        }),
      );
      if (now()) setPreviewed(answer);
      setTrouble(undefined);
    } catch (error) {
      if (now() === picture && error instanceof Trouble) setTrouble(error);
    }
  });
  useEffect(() => {
    ask(undefined);
    setPreviewed(undefined);
  }, [query.data, ask]);
  const preview = useCallback(
    (picture: Picture | undefined) => {
      ask(picture);
      if (picture) return;
      setPreviewed(undefined);
      setTrouble(undefined);
    },
    [ask],
  );
  return { kept: query.data, view: previewed ?? query.data, error: query.error, trouble, preview };
}
