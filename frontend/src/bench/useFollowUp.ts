import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, dataOf, type Schemas } from "../api/client";

type List = Schemas["FollowUpView"];
export type Item = Schemas["FollowUpItem"];
type Change = Partial<Pick<Item, "note" | "state" | "who">> & { by_hand?: boolean };

/** The follow-up list of a study, and ways to change it. */
export function useFollowUp(studyId: number, revision: number) {
  const client = useQueryClient();
  const path = { study_id: studyId };
  const key = ["follow-up", studyId, revision];
  const query = useQuery({
    queryKey: key,
    queryFn: () => dataOf<List>(api.GET("/api/studies/{study_id}/follow-up", { params: { path } })),
  });
  const settle = (list: List) => {
    client.setQueryData(key, list);
    void client.invalidateQueries({ queryKey: ["note", studyId] });
    void client.invalidateQueries({ queryKey: ["studies"] });
  };
  const noting = useMutation({
    scope: { id: `follow-up ${studyId}` },
    mutationFn: (body: { series: string; period: string } & Change) =>
      dataOf<List>(
        api.PUT("/api/studies/{study_id}/follow-up", {
          params: { path },
          body: {
            series: body.series,
            period: body.period,
            note: body.note ?? null,
            state: body.state ?? null,
            who: body.who ?? null,
            by_hand: body.by_hand ?? false,
          },
        }),
      ),
    onSuccess: settle,
  });
  const moving = useMutation({
    scope: { id: `follow-up ${studyId}` },
    mutationFn: (way: "undo" | "redo") =>
      dataOf<List>(
        way === "undo"
          ? api.POST("/api/studies/{study_id}/follow-up/undo", { params: { path } })
          : api.POST("/api/studies/{study_id}/follow-up/redo", { params: { path } }),
      ),
    onSuccess: settle,
  });
  return {
    list: query.data,
    error: query.error ?? noting.error,
    note: (item: { series: string; period: string }, change: Change) =>
      noting.mutate({ series: item.series, period: item.period, ...change }),
    move: (way: "undo" | "redo") => moving.mutate(way),
  };
}
