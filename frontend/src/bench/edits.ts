/** Edits as what they change, so that one can be made on whatever is kept by then. Pure. */
import type { FigureSettings, Ledger, Record_ } from "../api/client";

export interface BenchEdit {
  ledger: Ledger;
  settings: FigureSettings;
  /** Another as-of date; what it was where there is none. */
  as_of?: string;
}

/** What an edit makes of what is kept; undefined where there is nothing left for it to change. */
export type Change = (kept: BenchEdit) => BenchEdit | undefined;
type Words = Record<string, unknown>;

export function entriesOf(ledger: Ledger): Record_[] {
  return ledger.entries ?? [];
}

export function withEntries(kept: BenchEdit, entries: Record_[]): BenchEdit {
  return { ...kept, ledger: { ...kept.ledger, entries } };
}

export function replaceEntry(ledger: Ledger, id: string, change: (entry: Record_) => Record_): Ledger {
  return { ...ledger, entries: entriesOf(ledger).map((entry) => (entry.id === id ? change(entry) : entry)) };
}

/** An entry with other words: its numbers count what the periods are now. */
export function withWords(ledger: Ledger, id: string, params: Words): Ledger {
  return replaceEntry(ledger, id, (record) => ({ ...record, params, counted_in: null }));
}

/** The words that differ. */
export function changedWords(before: Words, after: Words): Words {
  return Object.fromEntries(
    Object.entries(after).filter(([word, value]) => JSON.stringify(before[word]) !== JSON.stringify(value)),
  );
}

/** Change one entry; nothing where it is no longer there. */
export function onEntry(id: string, change: (entry: Record_) => Record_): Change {
  return (kept) =>
    entriesOf(kept.ledger).some((entry) => entry.id === id)
      ? { ...kept, ledger: replaceEntry(kept.ledger, id, change) }
      : undefined;
}

/** Other words of an entry: only those that were changed, so that what others changed stays. */
export function onWords(id: string, words: Words): Change {
  return onEntry(id, (record) => ({ ...record, params: { ...record.params, ...words }, counted_in: null }));
}

export function onSettings(change: Partial<FigureSettings>): Change {
  return (kept) => ({ ...kept, settings: { ...kept.settings, ...change } });
}

/** A record for the ledger with an id of its own. */
export function newEntry(kind: string, params: Words): Record_ {
  return {
    id: `e${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(16) ?? "0"}`,
    kind,
    on: true,
    params,
    counted_in: null,
  };
}

export function added(record: Record_, after?: string): Change {
  return (kept) => {
    const entries = entriesOf(kept.ledger);
    const at = after === undefined ? entries.length : entries.findIndex((entry) => entry.id === after) + 1;
    return withEntries(kept, entries.toSpliced(at || entries.length, 0, record));
  };
}

export function removed(id: string): Change {
  return (kept) =>
    withEntries(
      kept,
      entriesOf(kept.ledger).filter((entry) => entry.id !== id),
    );
}

/** An entry and its neighbour change places. */
export function swapped(id: string, other: string): Change {
  return (kept) => {
    const entries = [...entriesOf(kept.ledger)];
    const [a, b] = [id, other].map((one) => entries.findIndex((entry) => entry.id === one)) as [
      number,
      number,
    ];
    const [first, second] = [entries[a], entries[b]];
    if (!first || !second) return undefined;
    entries[a] = second;
    entries[b] = first;
    return withEntries(kept, entries);
  };
}
