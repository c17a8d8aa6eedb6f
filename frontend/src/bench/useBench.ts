import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, told, Trouble, type Bench, type Schemas } from "../api/client";
import type { BenchEdit, Change } from "./edits";

interface Unsaved {
  change: Change;
  what: string;
}

/** One step in the queue of a study: an edit, or a move along its revisions. */
type Step = Unsaved | { way: "undo" | "redo" };

export interface BenchHandle {
  bench: Bench | undefined;
  /** What the server keeps, whatever is being previewed. */
  kept: Bench | undefined;
  error: unknown;
  /** What went wrong with the last edit; the edit itself is kept in `unsaved` after a conflict. */
  trouble: Trouble | undefined;
  unsaved: Unsaved | undefined;
  saving: boolean;
  preview: (edit: BenchEdit | undefined, nudged?: string) => void;
  /** The stretch of time that is shown: long lines are thinned to it. */
  showing: (window: [number, number] | undefined) => void;
  /** Keep an edit, after those that were made before it. */
  commit: (change: Change, what: string) => Promise<void>;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  lookAtNewer: () => Promise<void>;
  keepMine: () => Promise<void>;
  dropTrouble: () => void;
}

/** A study's bench: what is kept, a preview while a word is changed, and edits that say their base. */
export function useBench(studyId: number, looking?: string): BenchHandle {
  const client = useQueryClient();
  const key = ["bench", studyId];
  const path = { study_id: studyId };
  const query = useQuery({
    queryKey: key,
    queryFn: () => told<Bench>(api.GET("/api/studies/{study_id}", { params: { path } })),
  });
  const [previewed, setPreviewed] = useState<Bench>();
  const [trouble, setTrouble] = useState<Trouble>();
  const [unsaved, setUnsaved] = useState<Unsaved>();
  const wanted = useRef<{ edit: BenchEdit; nudged?: string } | undefined>(undefined);
  const running = useRef(false);
  const window = useRef<[number, number] | undefined>(undefined);
  const kept = query.data;
  const looked = useRef(looking);
  useEffect(() => void (looked.current = looking), [looking]);

  useEffect(() => () => void (wanted.current = undefined), []);

  // one preview is under way at a time; of the changes made meanwhile only the last is asked for
  const preview = useCallback(
    (edit: BenchEdit | undefined, nudged?: string) => {
      if (!edit) {
        wanted.current = undefined;
        setPreviewed(undefined);
        setTrouble(undefined);
        return;
      }
      wanted.current = nudged === undefined ? { edit } : { edit, nudged };
      if (running.current) return;
      const go = async () => {
        running.current = true;
        while (wanted.current) {
          const now = wanted.current;
          try {
            const body = {
              ...now.edit,
              as_of: now.edit.as_of ?? null,
              nudged: now.nudged ?? null,
              looking: looked.current ?? null,
              window: window.current ?? null,
            };
            const answer = await told<Bench>(
              api.POST("/api/studies/{study_id}/preview", { params: { path: { study_id: studyId } }, body }),
            );
            if (wanted.current) setPreviewed(answer);
            setTrouble(undefined);
          } catch (error) {
            if (wanted.current === now && error instanceof Trouble) setTrouble(error);
          }
          if (wanted.current === now) break;
        }
        running.current = false;
      };
      void go();
    },
    [studyId],
  );

  const settle = useCallback(
    (bench: Bench) => {
      wanted.current = undefined;
      client.setQueryData(["bench", studyId], bench);
      void client.invalidateQueries({ queryKey: ["values", studyId] });
      void client.invalidateQueries({ queryKey: ["note", studyId] });
      void client.invalidateQueries({ queryKey: ["studies"] });
      setPreviewed(undefined);
      setTrouble(undefined);
      setUnsaved(undefined);
    },
    [client, studyId],
  );

  // one at a time, each on what the one before it left: nobody is in the way of themselves
  const queue = useMutation({
    scope: { id: `bench ${studyId}` },
    mutationFn: async (step: Step) => {
      const now = client.getQueryData<Bench>(["bench", studyId]);
      if (!now) return undefined;
      const params = { path: { study_id: studyId } };
      const base = now.study.revision;
      if ("way" in step) {
        const request = { params, body: { base } };
        return told<Bench>(
          step.way === "undo"
            ? api.POST("/api/studies/{study_id}/undo", request)
            : api.POST("/api/studies/{study_id}/redo", request),
        );
      }
      const edit = step.change({ ledger: now.ledger, settings: now.settings });
      if (!edit) throw new Trouble("What the edit speaks of is no longer there.", 410);
      const body = { base, ...edit, what: step.what, as_of: edit.as_of ?? null };
      return told<Bench>(api.PUT("/api/studies/{study_id}/revision", { params, body }));
    },
    onSuccess: (answer) => answer && settle(answer),
    onError: (error, step) => {
      if (!(error instanceof Trouble)) return;
      setTrouble(error);
      if ("change" in step && (error.status === 409 || error.status === 0)) setUnsaved(step);
      else {
        wanted.current = undefined;
        setPreviewed(undefined);
      }
    },
  });
  const { mutateAsync } = queue;
  const enter = useCallback((step: Step) => mutateAsync(step).then(noop, noop), [mutateAsync]);

  // what is worked on elsewhere is asked for until it is there; then the run is told again
  const shown = previewed ?? kept;
  const works = (shown?.entries ?? []).flatMap((entry) => (entry.work ? [entry.work.key] : []));
  const working = works.join(" ");
  useEffect(() => {
    if (!working) return undefined;
    let over = false;
    const follow = async () => {
      while (!over) {
        await new Promise((later) => setTimeout(later, FOLLOWED));
        if (over) return;
        const states = await Promise.all(working.split(" ").map(workState));
        if (over || !states.some((stage) => stage === "done" || stage === undefined)) continue;
        const last = wanted.current;
        if (last) preview(last.edit, last.nudged);
        else await client.refetchQueries({ queryKey: ["bench", studyId] });
        return;
      }
    };
    void follow();
    return () => void (over = true);
  }, [working, preview, client, studyId]);

  const newest = () => told<Bench>(api.GET("/api/studies/{study_id}", { params: { path } }));
  return {
    bench: shown,
    kept,
    showing: useCallback((range) => void (window.current = range), []),
    error: query.error,
    trouble,
    unsaved,
    saving: queue.isPending,
    preview,
    commit: useCallback((change, what) => enter({ change, what }), [enter]),
    undo: () => enter({ way: "undo" }),
    redo: () => enter({ way: "redo" }),
    lookAtNewer: async () => {
      const mine = unsaved;
      settle(await newest());
      // what was typed stays at hand while the newer revision is looked at
      setUnsaved(mine);
    },
    keepMine: async () => {
      if (!unsaved) return;
      // the edit itself is made on what is kept now: what the other one changed stays
      client.setQueryData(["bench", studyId], await newest());
      await enter(unsaved);
    },
    dropTrouble: () => {
      setTrouble(undefined);
      setUnsaved(undefined);
      preview(undefined);
    },
  };
}

const FOLLOWED = 350; // milliseconds between two looks

/** How far a piece of work is; undefined where it is not known any more. */
async function workState(key: string): Promise<string | undefined> {
  const work = await told<Schemas["WorkView"]>(
    api.GET("/api/work/{key}", { params: { path: { key } } }),
  ).catch(noop);
  return work?.stage;
}

function noop(): undefined {
  // what went wrong is told by the mutation
  return undefined;
}
