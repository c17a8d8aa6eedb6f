/** Taking an offer: other words of the entry that makes it, a new entry, or more points for the entry that
 * holds such points already. */
import type { Ledger, Record_, Schemas } from "../api/client";
import { added, entriesOf, onWords, type Change } from "./edits";

interface Point {
  series: string;
  period: string;
}

/** What an offer changes. record: the entry it adds, where it adds one; by: the entry that makes it. */
export function taken(
  ledger: Ledger,
  offer: Schemas["OfferView"],
  record: Record_,
  by?: string,
): { change: Change; id: string } {
  if (offer.change && by !== undefined) return { change: onWords(by, offer.params), id: by };
  const picked = offer.params.points as Point[] | undefined;
  const holder = picked && entriesOf(ledger).find((entry) => holdsPicks(entry, offer));
  if (!holder) return { change: added(record), id: record.id };
  const change: Change = (kept) => {
    const now = entriesOf(kept.ledger).find((entry) => entry.id === holder.id);
    const had = (now?.params?.points ?? []) as Point[];
    const fresh = picked.filter((one) => !had.some((old) => samePoint(old, one)));
    return onWords(holder.id, { points: [...had, ...fresh] })(kept);
  };
  return { change, id: holder.id };
}

function holdsPicks(entry: Record_, offer: Schemas["OfferView"]): boolean {
  return (
    entry.kind === offer.kind &&
    Boolean(entry.on) &&
    entry.params?.rule === offer.params.rule &&
    entry.params?.then === offer.params.then
  );
}

export function samePoint(a: Point, b: Point): boolean {
  return a.series === b.series && a.period === b.period;
}

/** Whether an entry does already what an offer would do. */
export function isTaken(ledger: Ledger, offer: Schemas["OfferView"]): boolean {
  return entriesOf(ledger).some(
    (entry) =>
      entry.kind === offer.kind &&
      entry.on !== false &&
      Object.entries(offer.params).every(
        ([word, value]) => JSON.stringify(entry.params?.[word]) === JSON.stringify(value),
      ),
  );
}
