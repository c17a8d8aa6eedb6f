import type { Schemas } from "../api/client";
import { formatNumber } from "./format";

/** A table of evidence: text to the left, numbers to the right. */
export function EvidenceTable({ table }: { table: Schemas["TableView"] }) {
  const numeric = table.columns.map((_, n) => n > 0 && table.rows.some((row) => typeof row[n] === "number"));
  return (
    <section className="evidence-table">
      <h3>{table.title}</h3>
      <table>
        <thead>
          <tr>
            {table.columns.map((column, n) => (
              <th key={n} className={n > 0 ? "number" : undefined}>
                {column}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, n) => (
            <tr key={n}>
              {row.map((cell, at) => (
                <td key={at} className={numeric[at] || at > 0 ? "number" : undefined}>
                  {typeof cell === "number" ? formatNumber(cell) : (cell ?? "—")}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
