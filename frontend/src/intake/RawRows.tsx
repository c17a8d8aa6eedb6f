import { useEffect, useRef } from "react";
import type { Schemas } from "../api/client";
import { fileSize, plural } from "../ui/format";

const ROLES: Record<string, string> = {
  date: "dates",
  series: "series",
  number: "numbers",
  none: "not used",
};

/** The first rows as they came, each column marked with its role. */
interface Props {
  rows: Schemas["RawRows"];
  file: Schemas["DatasetView"];
  /** The question whose rows and columns are lit. */
  speaksOf: Schemas["QuestionView"] | undefined;
}

export function RawRows({ rows, file, speaksOf }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const litRows = new Set(speaksOf?.rows);
  const litColumns = new Set(speaksOf?.columns);
  useEffect(() => {
    const first = box.current?.querySelector<HTMLElement>("tr.lit");
    const scroll = box.current?.querySelector<HTMLElement>(".raw-scroll");
    if (first && scroll) scroll.scrollTop = Math.max(0, first.offsetTop - 80);
  }, [speaksOf?.key]);
  return (
    <div className="raw" ref={box}>
      <p className="muted">
        {file.name}, {fileSize(file.size)}, {plural(rows.height, "row")}, kept as received
      </p>
      <div className="raw-scroll" tabIndex={0} role="region" aria-label="Rows of the file">
        <table>
          <thead>
            <tr className="roles">
              <th />
              {rows.roles.map((role, n) => (
                <th key={n} className={`role ${role} ${litColumns.has(rows.columns[n] ?? "") ? "lit" : ""}`}>
                  {ROLES[role]}
                  {litColumns.has(rows.columns[n] ?? "") && "?"}
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
              <tr key={n} className={litRows.has(rows.numbers[n] ?? -1) ? "lit" : undefined}>
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
