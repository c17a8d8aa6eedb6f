import { useRef, useState } from "react";
import type { Params, Schemas, Understanding } from "../api/client";
import { understand, type How } from "./bringing";

type TableHow = Schemas["TableHow"];
type Asked = Parameters<typeof understand>[1];

/** What was understood of a file, following every word that is changed; the last kept answer is safe. */
export function useUnderstanding(start: Understanding) {
  const [now, setNow] = useState(start);
  const [trouble, setTrouble] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const asked = useRef(0);
  const kept = useRef(start);
  // null: the day that Zembra suggests
  const asOf = useRef<string | null>(null);

  const ask = async (request: Asked, keep: boolean) => {
    const mine = ++asked.current;
    setBusy(true);
    try {
      const answer = await understand(start.dataset.id, { as_of: asOf.current, ...request });
      if (mine !== asked.current) return;
      if (keep) kept.current = answer;
      setNow(answer);
      setTrouble(undefined);
    } catch (error) {
      if (mine === asked.current) setTrouble(error);
    } finally {
      if (mine === asked.current) setBusy(false);
    }
  };
  const back = () => {
    asked.current++;
    setNow(kept.current);
    setTrouble(undefined);
  };
  const askHow = (how: How, keepLedger: boolean, keep: boolean) =>
    void ask({ how, ledger: keepLedger ? kept.current.ledger : null }, keep);

  const close = (answer: Schemas["AnswerRequest"]) => {
    const { how, ledger } = kept.current;
    void ask({ how, ledger, answer }, true);
  };

  // another cut of the file has other columns: the rest is guessed anew
  const changeTable = (table: TableHow, keep: boolean) => {
    const sheet = table.sheet ?? null;
    void ask(sheet && sheet !== kept.current.how.table?.sheet ? { sheet } : { table }, keep);
  };

  const changeValues = (values: Schemas["ValuesHow"], keep: boolean) => {
    const { how } = kept.current;
    if (values.kind !== how.values.kind) {
      void ask({ table: how.table, kind: values.kind ?? null }, keep);
      return;
    }
    const sameColumns = JSON.stringify(values.columns) === JSON.stringify(how.values.columns);
    askHow({ ...how, values }, sameColumns, keep);
  };

  const changeSentence = (name: string, params: Params | undefined, keep: boolean) => {
    if (!params) {
      back();
      return;
    }
    const { how } = kept.current;
    if (name === "table") changeTable(params as TableHow, keep);
    else if (name === "values") changeValues(params as Schemas["ValuesHow"], keep);
    else if (name.startsWith("keep.")) {
      const place = Number(name.slice(5));
      const conditions = (how.keep ?? []).map((filter, n) =>
        n === place ? (params as Schemas["KeepHow"]) : filter,
      );
      askHow({ ...how, keep: conditions }, true, keep);
    } else askHow({ ...how, [name]: params } as How, false, keep);
  };

  return {
    now,
    trouble,
    busy,
    answer: (key: string, answer: number | null) => close({ key, answer, again: false }),
    again: (key: string) => close({ key, answer: null, again: true }),
    changeTable,
    changeSentence,
    changeAsOf: (day: string | undefined, keep: boolean) => {
      if (day === undefined) {
        back();
        return;
      }
      if (keep) asOf.current = day;
      const { how, ledger } = kept.current;
      void ask({ how, ledger, as_of: day }, keep);
    },
    changeEntry: (id: string, params: Params | undefined, keep: boolean) => {
      if (!params) {
        back();
        return;
      }
      const { how, ledger } = kept.current;
      const entries = (ledger.entries ?? []).map((entry) => (entry.id === id ? { ...entry, params } : entry));
      void ask({ how, ledger: { ...ledger, entries } }, keep);
    },
    addCondition: () => {
      const { how, rows } = kept.current;
      const text = rows.columns.find((_, n) => rows.roles[n] === "series") ?? rows.columns.at(-1) ?? "";
      const condition = { column: text, test: "one-of" as const, values: [], low: null, high: null };
      askHow({ ...how, keep: [...(how.keep ?? []), condition] }, true, true);
    },
    removeCondition: (place: number) => {
      const { how } = kept.current;
      askHow({ ...how, keep: (how.keep ?? []).filter((_, n) => n !== place) }, true, true);
    },
  };
}
