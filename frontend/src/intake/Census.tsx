import { useState } from "react";
import type { Schemas } from "../api/client";
import { formatLabel, formatNumber } from "../ui/format";

/** What came in, counted; each number opens the rows behind it. */
export function Census({ counts }: { counts: Schemas["CountView"][] }) {
  const [open, setOpen] = useState<string>();
  const chosen = counts.find((count) => count.key === open);
  return (
    <section className="census" aria-label="Census">
      <div className="census-counts">
        {counts.map((count) => (
          <button
            key={count.key}
            type="button"
            data-count={count.key}
            className={`census-count ${count.key} ${open === count.key ? "open" : ""}`}
            disabled={!count.examples.length}
            aria-expanded={open === count.key}
            title={count.meaning}
            onClick={() => setOpen(open === count.key ? undefined : count.key)}
          >
            <b>{formatNumber(count.count)}</b>
            <span>{count.label}</span>
          </button>
        ))}
      </div>
      {chosen && (
        <div className="census-rows">
          <p className="muted">
            {chosen.meaning}
            {chosen.count > chosen.examples.length &&
              `; the first ${chosen.examples.length} of ${formatNumber(chosen.count)}`}
          </p>
          <table>
            <tbody>
              {chosen.examples.map((example, n) => (
                <tr key={n}>
                  <td>{example.row === null ? "no row" : `row ${example.row}`}</td>
                  <td>{example.series}</td>
                  <td>{formatLabel(example.period)}</td>
                  <td>{example.text ? `“${example.text}”` : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
