import { added, newEntry, onEntry } from "../bench/edits";
import type { BenchHandle } from "../bench/useBench";
import type { Schemas } from "../api/client";

/** How long a provisional tail would have covered the revisions, with one click to have it so. */
export function Tail({
  tail,
  view,
  handle,
}: {
  tail: number;
  view: Schemas["NewRowsView"];
  handle: BenchHandle;
}) {
  const entry = handle.kept?.entries.find((found) => found.kind === "provisional" && found.on);
  const rule = entry?.params.rule as { kind?: string; last?: number } | undefined;
  const said = `A tail of the last ${tail} ${view.periods} would have covered 95 % of them`;
  if (rule?.kind === "last" && rule.last === tail) return <>{said}, as it is.</>;
  const words = { rule: { kind: "last", last: tail } };
  const mark = () =>
    void handle.commit(
      entry
        ? onEntry(entry.id, (record) => ({ ...record, params: { ...record.params, ...words } }))
        : added(newEntry("provisional", words)),
      `Provisional: the last ${tail} ${view.periods}`,
    );
  return (
    <>
      {said}.{" "}
      <button type="button" className="link" onClick={mark}>
        Make it {tail}
      </button>
    </>
  );
}
