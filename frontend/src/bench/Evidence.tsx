import type { Bench, Entry } from "../api/client";
import { EvidenceTable } from "../ui/EvidenceTable";

/** What the selected entry found and did; the last entry that has something to show, where none is selected. */
export function Evidence({ bench, selected }: { bench: Bench; selected: string | undefined }) {
  const chosen = bench.entries.find((entry) => entry.id === selected);
  const entry: Entry | undefined =
    chosen ?? bench.entries.findLast((one) => one.on && one.evidence.length > 0);
  if (!entry) return <p className="muted">Choose an entry of the ledger to see what it did.</p>;
  if (entry.waiting)
    return <p className="muted">This entry runs again when the word you are changing is kept.</p>;
  if (!entry.on) return <p className="muted">{entry.title} is switched off: it does nothing.</p>;
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
        <EvidenceTable key={table.title} table={table} />
      ))}
    </div>
  );
}
