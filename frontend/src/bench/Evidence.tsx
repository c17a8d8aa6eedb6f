import { useQuery } from "@tanstack/react-query";
import { api, told, type Bench, type Entry, type Params, type Schemas } from "../api/client";
import { EvidenceTable } from "../ui/EvidenceTable";
import { samePoint } from "./taking";
import { changedWords, onWords } from "./edits";
import type { BenchHandle } from "./useBench";

type Key = Schemas["RowKeyView"];
type Reason = { point: { series: string; period: string }; text: string };

interface Props {
  handle: BenchHandle;
  bench: Bench;
  selected: string | undefined;
}

/** What the selected entry found and did; the last entry that has something to show, where none is selected. */
export function Evidence({ handle, bench, selected }: Props) {
  const chosen = bench.entries.find((entry) => entry.id === selected);
  const entry: Entry | undefined =
    chosen ?? bench.entries.findLast((one) => one.on && one.evidence.length > 0);
  const projected = bench.figure.lines.some((line) => line.role === "projection");
  const effect = useQuery({
    queryKey: ["effect", bench.study.id, bench.study.revision, entry?.id],
    enabled: Boolean(entry?.on && entry.group === "repairs" && projected && !entry.waiting),
    queryFn: () =>
      told<Schemas["EffectView"]>(
        api.GET("/api/studies/{study_id}/effect", {
          params: { path: { study_id: bench.study.id }, query: { entry: entry?.id ?? "" } },
        }),
      ),
  });
  if (!entry) return <p className="muted">Choose an entry of the ledger to see what it did.</p>;
  if (entry.waiting)
    return <p className="muted">This entry runs again when the word you are changing is kept.</p>;
  if (!entry.on) return <p className="muted">{entry.title} is switched off: it does nothing.</p>;

  const change = (params: Params, what: string) =>
    void handle.commit(onWords(entry.id, changedWords(entry.params, params)), `${entry.title}: ${what}`);
  const pointOf = (key: Key) => ({ series: key.series, period: key.period });
  const onKeep = (key: Key) => {
    const list = entry.params.rule === "hand" ? "points" : "kept";
    const had = (entry.params[list] ?? []) as Key[];
    const without = had.filter((one) => !samePoint(one, key));
    const next = without.length < had.length ? without : [...had, pointOf(key)];
    change({ ...entry.params, [list]: next }, `${key.period} ${key.kept ? "treated again" : "kept"}`);
  };
  const onReason = (key: Key, text: string) => {
    const others = ((entry.params.reasons ?? []) as Reason[]).filter((one) => !samePoint(one.point, key));
    const next = text.trim() ? [...others, { point: pointOf(key), text: text.trim() }] : others;
    change({ ...entry.params, reasons: next }, `reason for ${key.period}`);
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
      {entry.evidence.length === 0 && (
        <p className="muted">{entry.title} has nothing more to show than its sentence.</p>
      )}
      {entry.evidence.map((table) => (
        <EvidenceTable
          key={table.title}
          table={table}
          keepLabel={entry.params.rule === "hand" ? "Take back" : "Keep it"}
          onKeep={onKeep}
          onReason={onReason}
        />
      ))}
      {effect.isFetching && <p className="muted">Running the projections without this entry…</p>}
      {effect.data?.tables.map((table) => (
        <EvidenceTable key={table.title} table={table} />
      ))}
    </div>
  );
}
