import type { Schemas } from "../api/client";
import { formatNumber } from "./format";

type Key = Schemas["RowKeyView"];

interface Props {
  table: Schemas["TableView"];
  /** What a click beside a row that speaks of a point does. */
  keepLabel?: string;
  onKeep?: (key: Key) => void;
  onReason?: (key: Key, text: string) => void;
}

/** A table of evidence: text to the left, numbers to the right; a row that speaks of a point can be acted on. */
export function EvidenceTable({ table, keepLabel, onKeep, onReason }: Props) {
  const numeric = table.columns.map((_, n) => n > 0 && table.rows.some((row) => typeof row[n] === "number"));
  const acts = onKeep && table.keys.length > 0;
  const reasonAt = acts ? table.columns.indexOf("Reason") : -1;
  return (
    <section className="evidence-table">
      <h3>{table.title}</h3>
      {table.rows.length === 0 && <p className="muted">None.</p>}
      <table hidden={table.rows.length === 0}>
        <thead>
          <tr>
            {table.columns.map((column, n) => (
              <th key={n} className={numeric[n] ? "number" : undefined}>
                {column}
              </th>
            ))}
            {acts && <th />}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, n) => {
            const key = table.keys[n];
            return (
              <tr key={key ? `${key.series} ${key.period}` : n} className={key?.kept ? "stays" : undefined}>
                {row.map((cell, at) => (
                  <td key={at} className={numeric[at] ? "number" : undefined}>
                    {key && at === reasonAt ? (
                      <ReasonField key={key.reason} point={key} onReason={onReason} />
                    ) : typeof cell === "number" ? (
                      formatNumber(cell)
                    ) : (
                      (cell ?? "—")
                    )}
                  </td>
                ))}
                {acts && key && (
                  <td>
                    <button type="button" className="link" onClick={() => onKeep(key)}>
                      {key.kept ? "Treat it again" : keepLabel}
                    </button>
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function ReasonField({ point, onReason }: { point: Key; onReason: Props["onReason"] }) {
  return (
    <input
      className="reason"
      defaultValue={point.reason}
      placeholder="note why"
      maxLength={120}
      aria-label={`Reason for ${point.period}`}
      onBlur={(event) => {
        if (event.target.value.trim() !== point.reason) onReason?.(point, event.target.value);
      }}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        event.stopPropagation();
      }}
    />
  );
}
