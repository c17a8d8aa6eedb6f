import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, dataOf, Trouble, type Bench, type Schemas } from "../api/client";
import { useLatest } from "../ui/latest";
import type { BenchEdit, Change } from "./edits";
import { keepBench } from "./kept";

interface Unsaved {
  change: Change;
  what: string;
}

/** What is being previewed, and the entry whose word is being changed. */
interface Previewing {
  edit: BenchEdit;
  nudged?: string;
}

/** One step in the queue of a study: an edit, or a move along its revisions. */
type Step = Unsaved | { way: "undo" | "redo" };

export interface BenchHandle {
  bench: Bench | undefined;
  /** What the server keeps, whatever is being previewed. */
  kept: Bench | undefined;
  error: unknown;
  /** What went wrong with the last edit; after a conflict the edits themselves are kept in `unsaved`, in their order. */
  trouble: Trouble | undefined;
  unsaved: readonly Unsaved[];
  saving: boolean;
  preview: (edit: BenchEdit | undefined, nudged?: string) => void;
  /** Ask once more for what is shown: work elsewhere was stopped or begun again. */
  lookAgain: () => Promise<void>;
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
    queryFn: () => dataOf<Bench>(api.GET("/api/studies/{study_id}", { params: { path } })),
  });
  const [previewed, setPreviewed] = useState<Bench>();
  const [trouble, setTrouble] = useState<Trouble>();
  const [unsaved, setUnsaved] = useState<readonly Unsaved[]>(NONE);
  const window = useRef<[number, number] | undefined>(undefined);
  const kept = query.data;
  const looked = useRef(looking);
  useEffect(() => void (looked.current = looking), [looking]);

  const { now: previewing, ask } = useLatest<Previewing>(async (now) => {
    try {
      const body = {
        ...now.edit,
        as_of: now.edit.as_of ?? null,
        nudged: now.nudged ?? null,
        looking: looked.current ?? null,
        window: window.current ?? null,
      };
      const answer = await dataOf<Bench>(
        api.POST("/api/studies/{study_id}/preview", { params: { path: { study_id: studyId } }, body }),
      );
      if (previewing()) setPreviewed(answer);
      setTrouble(undefined);
    } catch (error) {
      if (previewing() === now && error instanceof Trouble) setTrouble(error);
    }
  });
  const preview = useCallback(
    (edit: BenchEdit | undefined, nudged?: string) => {
      ask(edit && (nudged === undefined ? { edit } : { edit, nudged }));
      if (edit) return;
      setPreviewed(undefined);
      setTrouble(undefined);
    },
    [ask],
  );

  const settle = useCallback(
    async (bench: Bench) => {
      await keepBench(client, studyId, bench);
      ask(undefined);
      void client.invalidateQueries({ queryKey: ["values", studyId] });
      void client.invalidateQueries({ queryKey: ["note", studyId] });
      void client.invalidateQueries({ queryKey: ["studies"] });
      setPreviewed(undefined);
      setTrouble(undefined);
    },
    [client, studyId, ask],
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
        return dataOf<Bench>(
          step.way === "undo"
            ? api.POST("/api/studies/{study_id}/undo", request)
            : api.POST("/api/studies/{study_id}/redo", request),
        );
      }
      const edit = step.change({ ledger: now.ledger, settings: now.settings });
      if (!edit) throw new Trouble("What the edit speaks of is no longer there.", 410);
      const body = { base, ...edit, what: step.what, as_of: edit.as_of ?? null };
      return dataOf<Bench>(api.PUT("/api/studies/{study_id}/revision", { params, body }));
    },
    onSuccess: async (answer, step) => {
      if (!answer) return;
      await settle(answer);
      setUnsaved((waiting) => waiting.filter((edit) => edit !== step));
    },
    onError: (error, step) => {
      if (!(error instanceof Trouble)) return;
      if ("change" in step && (error.status === 409 || error.status === 0)) {
        setTrouble(error);
        setUnsaved((waiting) => (waiting.includes(step) ? waiting : [...waiting, step]));
      } else {
        // what was refused is told with what it was
        const what = "change" in step ? `${step.what}: ${error.detail}` : error.detail;
        setTrouble(new Trouble(what, error.status, error.place, error.todo));
        if ("change" in step) setUnsaved((waiting) => waiting.filter((edit) => edit !== step));
        ask(undefined);
        setPreviewed(undefined);
      }
    },
  });
  const { mutateAsync } = queue;
  const enter = useCallback((step: Step) => mutateAsync(step).then(noop, noop), [mutateAsync]);

  const lookAgain = useCallback(async () => {
    const last = previewing();
    if (last) preview(last.edit, last.nudged);
    else await client.refetchQueries({ queryKey: ["bench", studyId] });
  }, [preview, previewing, client, studyId]);

  // what is worked on elsewhere is asked for until it is there; then the run is told again, until no work is left
  const shown = previewed ?? kept;
  const works = (shown?.entries ?? []).flatMap(({ work }) =>
    work && UNDER_WAY.includes(work.stage) ? [work.key] : [],
  );
  const working = works.join(" ");
  // what the server could not begin, as it had too much to do, is asked for again
  const notBegun = (shown?.entries ?? []).some((entry) => entry.waiting && !entry.work) && !previewing();
  useEffect(() => {
    if (!working && !notBegun) return undefined;
    let over = false;
    const follow = async () => {
      while (!over) {
        await new Promise((later) => setTimeout(later, working ? FOLLOWED : ASKED_AGAIN));
        if (over) return;
        const states = await Promise.all(working.split(" ").filter(Boolean).map(workState));
        if (over || (working && states.every((stage) => stage && UNDER_WAY.includes(stage)))) continue;
        await lookAgain();
      }
    };
    void follow();
    return () => void (over = true);
  }, [working, notBegun, previewing, lookAgain]);

  const newest = () => dataOf<Bench>(api.GET("/api/studies/{study_id}", { params: { path } }));
  return {
    bench: shown,
    kept,
    showing: useCallback((range) => void (window.current = range), []),
    error: query.error,
    trouble,
    unsaved,
    saving: queue.isPending,
    preview,
    lookAgain,
    commit: useCallback((change, what) => enter({ change, what }), [enter]),
    undo: () => enter({ way: "undo" }),
    redo: () => enter({ way: "redo" }),
    // what was typed stays at hand while the newer revision is looked at
    lookAtNewer: async () => settle(await newest()),
    keepMine: async () => {
      // the edits themselves are made on what is kept now, one after the other: what the other one changed stays
      await keepBench(client, studyId, await newest());
      for (const edit of unsaved) await enter(edit);
    },
    dropTrouble: () => {
      setTrouble(undefined);
      setUnsaved(NONE);
      preview(undefined);
    },
  };
}

const NONE: readonly Unsaved[] = [];
const UNDER_WAY = ["waiting", "working"];
const FOLLOWED = 350; // milliseconds between two looks
const ASKED_AGAIN = 2_000;

/** How far a piece of work is; undefined where it is not known any more. */
async function workState(key: string): Promise<string | undefined> {
  const work = await dataOf<Schemas["WorkView"]>(
    api.GET("/api/work/{key}", { params: { path: { key } } }),
  ).catch(noop);
  return work?.stage;
}

function noop(): undefined {
  // what went wrong is told by the mutation
  return undefined;
}
