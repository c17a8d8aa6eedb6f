/** Taking an offer: other words of the entry that makes it, a new entry, or more points for the entry that
 * holds such points already. */
import type { Ledger, Params, Record_, Schemas } from "../api/client";
import { isWords, withValue } from "../ui/clauses";
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
  const picked = pointsOf(offer.params);
  const holder = picked && entriesOf(ledger).find((entry) => holdsPicks(entry, offer));
  if (!picked || !holder) return { change: added(record), id: record.id };
  const change: Change = (kept) => {
    const now = entriesOf(kept.ledger).find((entry) => entry.id === holder.id)?.params ?? {};
    const had = pointsOf(now) ?? [];
    const fresh = picked.filter((point) => !had.some((old) => samePoint(old, point)));
    return onWords(holder.id, { rule: withValue(ruleOf(now), "points", [...had, ...fresh]) })(kept);
  };
  return { change, id: holder.id };
}

function ruleOf(params: Params): Params {
  return isWords(params.rule) ? params.rule : {};
}

/** The points that a rule of picking by hand holds. */
function pointsOf(params: Params): Point[] | undefined {
  const rule = ruleOf(params);
  return rule.kind === "hand" ? ((rule.points ?? []) as Point[]) : undefined;
}

function holdsPicks(entry: Record_, offer: Schemas["OfferView"]): boolean {
  const params = entry.params ?? {};
  return (
    entry.kind === offer.kind &&
    Boolean(entry.on) &&
    pointsOf(params) !== undefined &&
    JSON.stringify(params.then) === JSON.stringify(offer.params.then)
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
