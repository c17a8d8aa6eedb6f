import { Button, Dropdown, Input } from "antd";
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, type KeyboardEvent } from "react";
import { api, dataOf, type Schemas } from "../api/client";
import { formatNumber, formatSigned } from "../ui/format";
import { RowChart } from "./RowChart";
import type { Asked, Near } from "./asked";

type Row = Schemas["SeriesRow"];

const PAGE = 100;
const ROW = 34; // pixels

const COLUMNS: [key: string, title: string, of: (row: Row) => string][] = [
  ["newest", "newest", (row) => number(row.newest)],
  ["expected", "expected", (row) => number(row.expected)],
  ["away", "away, in limits", (row) => (row.away === null ? "–" : row.away.toFixed(1))],
  ["shift_size", "shift", (row) => (row.shift_size === null ? "–" : formatSigned(short(row.shift_size)))],
  ["open", "open", (row) => formatNumber(row.open)],
  ["error", "scaled error", (row) => (row.error === null ? "–" : row.error.toFixed(2))],
];

interface Props {
  id: number;
  asked: Asked;
  near: Near;
  known: number;
  chosen: string | undefined;
  onAsked: (asked: Asked) => void;
  onChoose: (series: string) => void;
}

/** A row a series: found, put in order, walked by keys; as many as there are, as only what is seen is fetched. */
export function SeriesTable({ id, asked, near, known, chosen, onAsked, onChoose }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const page = (start: number) => ({
    queryKey: ["all series rows", id, asked, near, start],
    queryFn: () =>
      dataOf<Schemas["SeriesRows"]>(
        api.GET("/api/studies/{study_id}/all-series/rows", {
          params: { path: { study_id: id }, query: { ...asked, ...near, start, count: PAGE } },
        }),
      ),
    placeholderData: keepPreviousData<Schemas["SeriesRows"]>,
  });
  const head = useQuery(page(0));
  const total = head.data?.total ?? 0;
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const drawn = rows.getVirtualItems();
  const first = Math.floor((drawn[0]?.index ?? 0) / PAGE);
  const last = Math.floor((drawn.at(-1)?.index ?? 0) / PAGE);
  const pages = useQueries({
    queries: Array.from({ length: total ? last - first + 1 : 0 }, (_, n) => page((first + n) * PAGE)),
  });
  const rowAt = (n: number): Row | undefined => {
    const data = pages[Math.floor(n / PAGE) - first]?.data;
    return data && data.start === Math.floor(n / PAGE) * PAGE ? data.rows[n % PAGE] : undefined;
  };
  const at = drawn.find(({ index }) => rowAt(index)?.series === chosen)?.index;
  const walk = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 10, PageUp: -10 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const to = Math.max(0, Math.min(total - 1, (at ?? -1) + step));
    rows.scrollToIndex(to);
    const row = rowAt(to);
    if (row) onChoose(row.series);
  };
  const file = (form: string) =>
    `/api/studies/${id}/all-series/file?${new URLSearchParams({
      ...Object.fromEntries(Object.entries({ ...asked, ...near }).map(([key, word]) => [key, String(word)])),
      form,
    }).toString()}`;
  const sort = (by: string) =>
    onAsked({ ...asked, by, descending: asked.by === by ? !asked.descending : by !== "series" });
  const heading = (key: string, title: string, numeric: boolean) => (
    <span
      key={key}
      role="columnheader"
      className={numeric ? "number" : undefined}
      aria-sort={asked.by === key ? (asked.descending ? "descending" : "ascending") : "none"}
    >
      <button type="button" className="quiet" onClick={() => sort(key)}>
        {title}
        {asked.by === key && (asked.descending ? " ↓" : " ↑")}
      </button>
    </span>
  );
  return (
    <>
      <div className="series-bar">
        <Input
          allowClear
          size="small"
          placeholder="Find a series"
          aria-label="Find a series"
          value={asked.find}
          onChange={(event) => onAsked({ ...asked, find: event.target.value })}
        />
        <span className="muted" role="status">
          {formatNumber(total)} of {formatNumber(known)}
        </span>
        <Dropdown
          trigger={["click"]}
          menu={{
            items: ["csv", "parquet", "xlsx"].map((form) => ({
              key: form,
              label: <a href={file(form)}>{{ csv: "CSV", parquet: "Parquet", xlsx: "Workbook" }[form]}</a>,
            })),
          }}
        >
          <Button size="small">These rows as a file</Button>
        </Dropdown>
      </div>
      <div
        className="series-table"
        role="table"
        aria-label="All series"
        aria-rowcount={total + 1}
        ref={box}
        tabIndex={0}
        onKeyDown={walk}
      >
        <div role="row" className="series-row head">
          {heading("series", "series", false)}
          <span role="columnheader">last 90, and what was expected</span>
          {COLUMNS.map(([key, title]) => heading(key, title, true))}
          <span role="columnheader">found</span>
        </div>
        <div role="rowgroup" style={{ height: rows.getTotalSize(), position: "relative" }}>
          {drawn.map(({ index, start }) => {
            const row = rowAt(index);
            return (
              <div
                key={index}
                role="row"
                aria-rowindex={index + 2}
                className={row && row.series === chosen ? "series-row chosen" : "series-row"}
                style={{
                  position: "absolute",
                  top: 0,
                  left: 0,
                  right: 0,
                  height: ROW,
                  transform: `translateY(${start}px)`,
                }}
                onClick={() => row && onChoose(row.series)}
              >
                {row ? (
                  <>
                    <span role="cell" title={row.series}>
                      {row.series}
                    </span>
                    <span role="cell">
                      <RowChart row={row} />
                    </span>
                    {COLUMNS.map(([key, , of]) => (
                      <span
                        role="cell"
                        key={key}
                        className={key === "away" && (row.away ?? 0) > 1 ? "number attention" : "number"}
                      >
                        {of(row)}
                      </span>
                    ))}
                    <span role="cell" title={row.refused}>
                      {row.found.map((name) => (
                        <span key={name} className="tag">
                          {name}
                        </span>
                      ))}
                    </span>
                  </>
                ) : (
                  <span role="cell" className="muted">
                    …
                  </span>
                )}
              </div>
            );
          })}
        </div>
      </div>
    </>
  );
}

function number(amount: number | null): string {
  return amount === null ? "–" : formatNumber(short(amount));
}

function short(amount: number): number {
  return Number(amount.toPrecision(4));
}
