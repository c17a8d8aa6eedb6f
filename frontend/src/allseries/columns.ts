import { useState } from "react";
import type { Schemas } from "../api/client";
import { formatDate, formatNumber, formatSigned } from "../ui/format";

export type Column = Schemas["SeriesColumn"];
type Cell = number | string | null | undefined;

/** The columns that a table shows, in their order, kept for a study in this browser. */
export function useColumns(id: number, known: Column[]): [string[], (names: string[]) => void] {
  const key = `zembra all series columns ${id}`;
  const [kept, setKept] = useState<string[] | undefined>(() => {
    try {
      const found: unknown = JSON.parse(localStorage.getItem(key) ?? "null");
      return Array.isArray(found) ? found.map(String) : undefined;
    } catch {
      return undefined;
    }
  });
  const usual = known.filter((column) => column.usual).map((column) => column.name);
  const names = (kept ?? usual).filter((name) => known.some((column) => column.name === name));
  return [
    names,
    (next) => {
      localStorage.setItem(key, JSON.stringify(next));
      setKept(next);
    },
  ];
}

/** How much room a column takes. */
export function widthOf(column: Column): string {
  if (column.kind === "text") return "minmax(120px, 1fr)";
  return column.kind === "date" ? "84px" : `${Math.max(50, Math.min(96, column.title.length * 6.4))}px`;
}

export function cellText(column: Column, cell: Cell): string {
  if (cell === null || cell === undefined || cell === "") return "–";
  if (typeof cell === "string") return column.kind === "date" ? formatDate(cell) : cell;
  if (column.name === "away") return cell.toFixed(1);
  if (column.name === "error") return cell.toFixed(2);
  return column.name === "shift_size" ? formatSigned(short(cell)) : formatNumber(short(cell));
}

function short(amount: number): number {
  return Number.isInteger(amount) ? amount : Number(amount.toPrecision(4));
}
