import { useQuery } from "@tanstack/react-query";
import { api, dataOf, type Bench, type Entry, type Params, type Schemas } from "../api/client";
import { isWords, valueAt, withValue } from "../ui/clauses";
import { EvidencePlot } from "../ui/EvidencePlot";
import { EvidenceTable } from "../ui/EvidenceTable";
import { samePoint } from "./taking";
import { changedWords, onWords } from "./edits";
import type { BenchHandle } from "./useBench";

type Finding = Schemas["FindingView"];
type Reason = { point: { series: string; period: string }; text: string };

interface Props {
  handle: BenchHandle;
  bench: Bench;
  selected: string | undefined;
}

/** What the selected entry found and did; the last entry that is switched on, where none is selected. */
export function Evidence({ handle, bench, selected }: Props) {
  const chosen = bench.entries.find((entry) => entry.id === selected);
  const entry: Entry | undefined = chosen ?? bench.entries.findLast((kept) => kept.on);
  const projected = bench.figure.shapes.some((shape) => shape.rests === "projected");
  // a preview brings the evidence of the entry that is looked at; what is kept is asked for
  const previewed = bench.evidence?.entry === entry?.id ? bench.evidence : undefined;
  const asked = useQuery({
    queryKey: ["evidence", bench.study.id, bench.study.revision, entry?.id, entry?.waiting],
    enabled: Boolean(entry?.on && !previewed),
    placeholderData: (last, query) => (query?.queryKey[3] === entry?.id ? last : undefined),
    queryFn: () =>
      dataOf<Schemas["EvidenceView"]>(
        api.GET("/api/studies/{study_id}/evidence", {
          params: { path: { study_id: bench.study.id }, query: { entry: entry?.id ?? "" } },
        }),
      ),
  });
  const items = (previewed ?? asked.data)?.items ?? [];
  const effect = useQuery({
    queryKey: ["effect", bench.study.id, bench.study.revision, entry?.id],
    enabled: Boolean(entry?.on && entry.group === "repairs" && projected && !entry.waiting),
    refetchInterval: (query) => (query.state.data?.waiting ? 400 : false),
    queryFn: () =>
      dataOf<Schemas["EffectView"]>(
        api.GET("/api/studies/{study_id}/effect", {
          params: { path: { study_id: bench.study.id }, query: { entry: entry?.id ?? "" } },
        }),
      ),
  });
  if (!entry) return <p className="muted">Choose an entry of the ledger to see what it did.</p>;
  if (entry.waiting && !entry.work)
    return <p className="muted">This entry runs again when the word you are changing is kept.</p>;
  if (!entry.on) return <p className="muted">{entry.title} is switched off: it does nothing.</p>;

  const change = (params: Params, what: string) =>
    void handle.commit(
      onWords(entry.id, changedWords(entry.params, params), entry.params),
      `${entry.title}: ${what}`,
    );
  const byHand = isWords(entry.params.rule) && entry.params.rule.kind === "hand";
  const list = byHand ? "rule.points" : "kept";
  const pointOf = (found: Finding) => ({ series: found.series, period: found.period });
  const onKeep = (found: Finding) => {
    const had = (valueAt(entry.params, list) ?? []) as Finding[];
    const without = had.filter((point) => !samePoint(point, found));
    const next = without.length < had.length ? without : [...had, pointOf(found)];
    const what = found.state === "kept" ? "treated again" : "kept";
    change(withValue(entry.params, list, next), `${found.period} ${what}`);
  };
  const onReason = (found: Finding, text: string) => {
    const others = ((entry.params.reasons ?? []) as Reason[]).filter(
      (reason) => !samePoint(reason.point, found),
    );
    const next = text.trim() ? [...others, { point: pointOf(found), text: text.trim() }] : others;
    change({ ...entry.params, reasons: next }, `reason for ${found.period}`);
  };
  return (
    <div className="evidence">
      {entry.warnings.length > 0 && (
        <ul className="evidence-warnings">
          {entry.warnings.map((warning) => (
            <li key={warning}>{warning}</li>
          ))}
        </ul>
      )}
      {entry.waiting && <p className="muted">Not all of it is worked out yet.</p>}
      {!entry.waiting && !asked.isFetching && items.length === 0 && (
        <p className="muted">{entry.title} has nothing more to show than its sentence.</p>
      )}
      {items.map((item) =>
        item.what === "plot" ? (
          <EvidencePlot key={item.title} plot={item} />
        ) : (
          <EvidenceTable
            key={item.title}
            table={item}
            keepLabel={byHand ? "Take back" : "Keep it"}
            onKeep={onKeep}
            onReason={onReason}
          />
        ),
      )}
      {(effect.isFetching || effect.data?.waiting) && (
        <p className="muted">Running the projections without this entry…</p>
      )}
      {effect.data?.tables.map((table) => (
        <EvidenceTable key={table.title} table={table} />
      ))}
    </div>
  );
}
