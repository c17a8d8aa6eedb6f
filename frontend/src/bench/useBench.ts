import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import {
  api,
  told,
  Trouble,
  type Bench,
  type FigureSettings,
  type Ledger,
  type Record_,
} from "../api/client";

export interface BenchEdit {
  ledger: Ledger;
  settings: FigureSettings;
  /** Another as-of date; what it was where there is none. */
  as_of?: string;
}

export interface BenchHandle {
  bench: Bench | undefined;
  /** What the server keeps, whatever is being previewed. */
  kept: Bench | undefined;
  error: unknown;
  /** What went wrong with the last edit; the edit itself is kept in `unsaved` after a conflict. */
  trouble: Trouble | undefined;
  unsaved: (BenchEdit & { what: string }) | undefined;
  saving: boolean;
  preview: (edit: BenchEdit | undefined, nudged?: string) => void;
  /** The stretch of time that is shown: long lines are thinned to it. */
  showing: (window: [number, number] | undefined) => void;
  commit: (edit: BenchEdit, what: string) => Promise<void>;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  lookAtNewer: () => Promise<void>;
  keepMine: () => Promise<void>;
  dropTrouble: () => void;
}

/** A study's bench: what is kept, a preview while a word is changed, and edits that say their base. */
export function useBench(studyId: number): BenchHandle {
  const client = useQueryClient();
  const key = ["bench", studyId];
  const path = { study_id: studyId };
  const query = useQuery({
    queryKey: key,
    queryFn: () => told<Bench>(api.GET("/api/studies/{study_id}", { params: { path } })),
  });
  const [previewed, setPreviewed] = useState<Bench>();
  const [trouble, setTrouble] = useState<Trouble>();
  const [unsaved, setUnsaved] = useState<BenchEdit & { what: string }>();
  const [saving, setSaving] = useState(false);
  const wanted = useRef<{ edit: BenchEdit; nudged?: string } | undefined>(undefined);
  const running = useRef(false);
  const window = useRef<[number, number] | undefined>(undefined);
  const kept = query.data;

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
      void client.invalidateQueries({ queryKey: ["points", studyId] });
      void client.invalidateQueries({ queryKey: ["note", studyId] });
      void client.invalidateQueries({ queryKey: ["studies"] });
      setPreviewed(undefined);
      setTrouble(undefined);
      setUnsaved(undefined);
    },
    [client, studyId],
  );

  const send = useCallback(
    async (base: number, edit: BenchEdit, what: string) => {
      setSaving(true);
      try {
        const body = { base, ledger: edit.ledger, settings: edit.settings, what, as_of: edit.as_of ?? null };
        settle(
          await told<Bench>(
            api.PUT("/api/studies/{study_id}/revision", { params: { path: { study_id: studyId } }, body }),
          ),
        );
      } catch (error) {
        if (!(error instanceof Trouble)) throw error;
        setTrouble(error);
        if (error.status === 409 || error.status === 0) setUnsaved({ ...edit, what });
        else {
          wanted.current = undefined;
          setPreviewed(undefined);
        }
      } finally {
        setSaving(false);
      }
    },
    [settle, studyId],
  );

  const commit = useCallback(
    async (edit: BenchEdit, what: string) => {
      if (kept) await send(kept.study.revision, edit, what);
    },
    [kept, send],
  );

  const move = useCallback(
    async (way: "undo" | "redo") => {
      if (!kept) return;
      const request = { params: { path: { study_id: studyId } }, body: { base: kept.study.revision } };
      try {
        settle(
          await told<Bench>(
            way === "undo"
              ? api.POST("/api/studies/{study_id}/undo", request)
              : api.POST("/api/studies/{study_id}/redo", request),
          ),
        );
      } catch (error) {
        if (error instanceof Trouble) setTrouble(error);
      }
    },
    [kept, settle, studyId],
  );

  const newest = () => told<Bench>(api.GET("/api/studies/{study_id}", { params: { path } }));
  return {
    bench: previewed ?? kept,
    kept,
    showing: useCallback((range) => void (window.current = range), []),
    error: query.error,
    trouble,
    unsaved,
    saving,
    preview,
    commit,
    undo: () => move("undo"),
    redo: () => move("redo"),
    lookAtNewer: async () => {
      const mine = unsaved;
      settle(await newest());
      // what was typed stays at hand while the newer revision is looked at
      setUnsaved(mine);
    },
    keepMine: async () => {
      if (!unsaved) return;
      const now = await newest();
      client.setQueryData(["bench", studyId], now);
      await send(now.study.revision, unsaved, unsaved.what);
    },
    dropTrouble: () => {
      setTrouble(undefined);
      setUnsaved(undefined);
      preview(undefined);
    },
  };
}

export function replaceEntry(ledger: Ledger, id: string, change: (entry: Record_) => Record_): Ledger {
  return {
    ...ledger,
    entries: (ledger.entries ?? []).map((entry) => (entry.id === id ? change(entry) : entry)),
  };
}

/** An entry with other words: its numbers count what the periods are now. */
export function withWords(ledger: Ledger, id: string, params: Record<string, unknown>): Ledger {
  return replaceEntry(ledger, id, (record) => ({ ...record, params, counted_in: null }));
}

/** A record for the ledger with an id of its own. */
export function newEntry(kind: string, params: Record<string, unknown>): Record_ {
  return {
    id: `e${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(16) ?? "0"}`,
    kind,
    on: true,
    params,
    counted_in: null,
  };
}
