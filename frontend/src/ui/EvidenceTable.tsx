import type { Schemas } from "../api/client";
import { formatLabel, formatNumber } from "./format";

type Finding = Schemas["FindingView"];
type Column = Schemas["ColumnView"];
type Cell = string | number | null;

interface Props {
  table: Schemas["TableView"];
  /** What a click beside a row that speaks of a finding does. */
  keepLabel?: string;
  onKeep?: (found: Finding) => void;
  onReason?: (found: Finding, text: string) => void;
}

const TO_THE_RIGHT = ["count", "number", "percent", "p"];

/** A table of evidence: words to the left, numbers to the right; a row that speaks of a finding can be acted on. */
export function EvidenceTable({ table, keepLabel, onKeep, onReason }: Props) {
  const keeps = onKeep && table.deeds.includes("keep");
  const notes = onReason && table.deeds.includes("note");
  return (
    <section className="evidence-table">
      <h3>{table.title}</h3>
      {table.rows.length === 0 && <p className="muted">None.</p>}
      <table hidden={table.rows.length === 0}>
        <thead>
          <tr>
            {table.columns.map((column) => (
              <th key={column.key} className={sideOf(column)}>
                {column.title}
                {column.unit ? `, ${column.unit}` : ""}
              </th>
            ))}
            {keeps && <th />}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, n) => {
            const found = table.findings[n];
            const stays = found?.state === "kept";
            return (
              <tr key={found ? `${found.series} ${found.period}` : n} className={stays ? "stays" : undefined}>
                {table.columns.map((column, at) => (
                  <td key={column.key} className={sideOf(column)}>
                    {found && notes && column.key === "reason" ? (
                      <ReasonField key={found.note} found={found} onReason={onReason} />
                    ) : (
                      written(row[at] ?? null, column)
                    )}
                  </td>
                ))}
                {keeps && (
                  <td>
                    {found && (
                      <button type="button" className="link" onClick={() => onKeep(found)}>
                        {stays ? "Treat it again" : keepLabel}
                      </button>
                    )}
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

function sideOf(column: Column): string | undefined {
  return TO_THE_RIGHT.includes(column.kind) ? "number" : undefined;
}

function written(cell: Cell, column: Column): string {
  if (cell === null || cell === "") return "—";
  if (typeof cell === "string") return column.kind === "period" ? formatLabel(cell) : cell;
  return column.kind === "p" && cell < 0.001 ? "below 0.001" : formatNumber(cell);
}

function ReasonField({ found, onReason }: { found: Finding; onReason: Props["onReason"] }) {
  return (
    <input
      className="reason"
      defaultValue={found.note}
      placeholder="note why"
      maxLength={120}
      aria-label={`Reason for ${found.period}`}
      onBlur={(event) => {
        if (event.target.value.trim() !== found.note) onReason?.(found, event.target.value);
      }}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        event.stopPropagation();
      }}
    />
  );
}
