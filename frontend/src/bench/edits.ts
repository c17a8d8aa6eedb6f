/** Edits as what they change, so that one can be made on whatever is kept by then. Pure. */
import type { FigureSettings, Ledger, Record_ } from "../api/client";
import { isWords } from "../ui/clauses";

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

function withEntries(kept: BenchEdit, entries: Record_[]): BenchEdit {
  return { ...kept, ledger: { ...kept.ledger, entries } };
}

function replaceEntry(ledger: Ledger, id: string, change: (entry: Record_) => Record_): Ledger {
  return { ...ledger, entries: entriesOf(ledger).map((entry) => (entry.id === id ? change(entry) : entry)) };
}

/** The words that differ; within a clause that is the same on both sides, its words that differ. */
export function changedWords(before: Words, after: Words): Words {
  const changed: Words = {};
  for (const [word, value] of Object.entries(after)) {
    const old = before[word];
    if (JSON.stringify(old) === JSON.stringify(value)) continue;
    const sameClause = isWords(old) && isWords(value) && old.kind === value.kind;
    changed[word] = sameClause ? { kind: value.kind, ...changedWords(old, value) } : value;
  }
  return changed;
}

/** Words with some of them changed; undefined where a clause is no longer the one whose words were changed. */
export function mergedWords(kept: Words, change: Words, before: Words): Words | undefined {
  const merged: Words = { ...kept };
  for (const [word, value] of Object.entries(change)) {
    const [now, was] = [kept[word], before[word]];
    if (!isWords(value) || !isWords(was) || was.kind !== value.kind) merged[word] = value;
    else if (isWords(now) && now.kind === value.kind) merged[word] = { ...now, ...value };
    else return undefined;
  }
  return merged;
}

/** Change one entry; nothing where it is no longer there. */
export function onEntry(id: string, change: (entry: Record_) => Record_): Change {
  return (kept) =>
    entriesOf(kept.ledger).some((entry) => entry.id === id)
      ? { ...kept, ledger: replaceEntry(kept.ledger, id, change) }
      : undefined;
}

/** Other words of an entry: only those that were changed, so that what others changed stays; its numbers count
 * what the periods are now. before: its words when the change was made. */
export function onWords(id: string, words: Words, before: Words = {}): Change {
  return (kept) => {
    const mine = entriesOf(kept.ledger).find((entry) => entry.id === id);
    const params = mine && mergedWords(mine.params ?? {}, words, before);
    return params && onEntry(id, (record) => ({ ...record, params, counted_in: null }))(kept);
  };
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
    made_in: null,
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
    const [a, b] = [id, other].map((key) => entries.findIndex((entry) => entry.id === key)) as [
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
