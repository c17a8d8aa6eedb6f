import type { KeyboardEvent } from "react";
import type { Schemas } from "../api/client";
import { formatFixed, formatNumber, plural } from "../ui/format";
import { rowKeys } from "../ui/rows";

type Every = Schemas["EverySeriesView"];

/** Each series in a row, what needs a look first; opening one judges all candidates on it. */
export function EverySeries({ every, onOpen }: { every: Every; onOpen: (series: string) => void }) {
  const onKeyDown = (series: string) => (event: KeyboardEvent<HTMLTableRowElement>) => {
    rowKeys(event, { Enter: () => onOpen(series) });
  };
  const wanting = every.rows.filter((row) => row.reasons.length).length;
  return (
    <>
      <h2>Every series, what needs a look first</h2>
      <p className="muted small" role="status">
        {every.rows.length < every.of
          ? `${every.rows.length} of ${plural(every.of, "series", "series")} judged so far. `
          : `${wanting} of ${plural(every.of, "series", "series")} want a look. `}
        The error is scaled: 1.00 is as good as the usual step of a season. Enter judges all candidates on a
        series.
      </p>
      <table className="candidates every-series">
        <thead>
          <tr>
            <th>series</th>
            <th className="number">scaled error</th>
            <th className="number">error %</th>
            {every.levels.map((level) => (
              <th key={level} className="number level">
                in {formatNumber(level)} %
              </th>
            ))}
            <th>best of the quick methods</th>
            <th className="number">its error</th>
            <th>why it wants a look</th>
          </tr>
        </thead>
        <tbody>
          {every.rows.map((row) => (
            <tr
              key={row.series}
              tabIndex={0}
              onClick={() => onOpen(row.series)}
              onKeyDown={onKeyDown(row.series)}
            >
              <td>{row.series}</td>
              <td className="number">{formatFixed(row.error, 2)}</td>
              <td className="number">{formatFixed(row.wape, 1)}</td>
              {every.levels.map((level, n) => {
                const found = row.inside[n];
                return (
                  <td key={level} className={found?.short ? "number attention" : "number"}>
                    {formatFixed(found?.share, 0)}
                  </td>
                );
              })}
              <td>{row.best || "—"}</td>
              <td className="number">{formatFixed(row.best_error, 2)}</td>
              <td className={row.reasons.length ? "attention" : "muted"}>
                {row.reasons.join("; ") || "nothing stands out"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
