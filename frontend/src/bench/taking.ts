/** Taking an offer: other words of the entry that makes it, a new entry, or more points for the entry that holds such points already. */
import type { Ledger, Record_, Schemas } from "../api/client";
import { newEntry, replaceEntry, withWords } from "./useBench";

interface Point {
  series: string;
  period: string;
}

export function takeOffer(
  ledger: Ledger,
  offer: Schemas["OfferView"],
  by?: string,
): { ledger: Ledger; id: string } {
  const entries = ledger.entries ?? [];
  const own = entries.find((entry) => entry.id === by);
  if (offer.change && own)
    return { ledger: withWords(ledger, own.id, { ...own.params, ...offer.params }), id: own.id };
  const picked = offer.params.points as Point[] | undefined;
  const holder = picked && entries.find((entry) => holdsPicks(entry, offer));
  if (!holder) {
    const record = newEntry(offer.kind, offer.params);
    return { ledger: { ...ledger, entries: [...entries, record] }, id: record.id };
  }
  const had = (holder.params?.points ?? []) as Point[];
  const fresh = picked.filter((one) => !had.some((old) => samePoint(old, one)));
  const params = { ...holder.params, points: [...had, ...fresh] };
  return { ledger: replaceEntry(ledger, holder.id, (record) => ({ ...record, params })), id: holder.id };
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
  return (ledger.entries ?? []).some(
    (entry) =>
      entry.kind === offer.kind &&
      entry.on !== false &&
      Object.entries(offer.params).every(
        ([word, value]) => JSON.stringify(entry.params?.[word]) === JSON.stringify(value),
      ),
  );
}
