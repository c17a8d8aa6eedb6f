import type { Schemas } from "../api/client";
import { fileSize, plural } from "../ui/format";

const ROLES: Record<string, string> = {
  date: "dates",
  series: "series",
  number: "numbers",
  none: "not used",
};

/** The first rows as they came, each column marked with its role. */
export function RawRows({ rows, file }: { rows: Schemas["RawRows"]; file: Schemas["DatasetView"] }) {
  return (
    <div className="raw">
      <p className="muted">
        {file.name}, {fileSize(file.size)}, {plural(rows.height, "row")}, kept as received
      </p>
      <div className="raw-scroll">
        <table>
          <thead>
            <tr className="roles">
              <th />
              {rows.roles.map((role, n) => (
                <th key={n} className={`role ${role}`}>
                  {ROLES[role]}
                </th>
              ))}
            </tr>
            <tr>
              <th className="row-number">row</th>
              {rows.columns.map((column, n) => (
                <th key={n} className={rows.roles[n] === "number" ? "number" : undefined}>
                  {column}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.cells.map((cells, n) => (
              <tr key={n}>
                <td className="row-number">{rows.numbers[n]}</td>
                {cells.map((cell, at) => (
                  <td
                    key={at}
                    className={`${rows.roles[at] === "number" ? "number" : ""} ${cell === null ? "blank-cell" : ""}`}
                  >
                    {cell ?? "blank"}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
