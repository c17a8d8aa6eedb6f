import { Button, Dropdown, Input } from "antd";
import { keepPreviousData, useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, type KeyboardEvent } from "react";
import { api, dataOf, type Schemas } from "../api/client";
import { formatNumber, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import { ColumnChoice } from "./ColumnChoice";
import { RowChart } from "./RowChart";
import { queryOf, type Asked, type Near, type Where } from "./asked";
import { cellText, useColumns, widthOf, type Column } from "./columns";

type Row = Schemas["SeriesRow"];

const PAGE = 100;
const ROW = 34; // pixels

interface Props {
  id: number;
  asked: Asked;
  near: Near;
  known: number;
  columns: Column[];
  chosen: string | undefined;
  onAsked: (asked: Asked) => void;
  onChoose: (series: string) => void;
}

/** A row a series: found, put in order, walked by keys; as many as there are, as only what is seen is fetched. */
export function SeriesTable({ id, asked, near, known, columns, chosen, onAsked, onChoose }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [names, setNames] = useColumns(id, columns);
  const shown = names.flatMap((name) => columns.find((column) => column.name === name) ?? []);
  const page = (start: number) => ({
    queryKey: ["all series rows", id, asked, near, names, start],
    queryFn: () =>
      dataOf<Schemas["SeriesRows"]>(
        api.GET("/api/studies/{study_id}/all-series/rows", {
          params: {
            path: { study_id: id },
            query: { ...queryOf(asked, near), columns: names.join(","), start, count: PAGE },
          },
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
    // the heading stays above them
    scrollPaddingStart: ROW,
  });
  const wanted = JSON.stringify(asked);
  useEffect(() => {
    if (box.current) box.current.scrollTop = 0;
  }, [wanted]);
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
      ...Object.fromEntries(Object.entries(queryOf(asked, near)).map(([key, word]) => [key, String(word)])),
      form,
    }).toString()}`;
  const sort = (by: string) =>
    onAsked({ ...asked, by, descending: asked.by === by ? !asked.descending : by !== "series" });
  const heading = ({ name, title, tip, kind }: Pick<Column, "name" | "title" | "tip" | "kind">) => (
    <span
      key={name}
      role="columnheader"
      className={kind === "number" ? "number" : undefined}
      aria-sort={asked.by === name ? (asked.descending ? "descending" : "ascending") : "none"}
    >
      <button type="button" className="quiet" title={tip || undefined} onClick={() => sort(name)}>
        {title}
        {asked.by === name && (asked.descending ? " ↓" : " ↑")}
      </button>
    </span>
  );
  const widths = {
    gridTemplateColumns: `minmax(150px, 1.6fr) 164px ${shown.map(widthOf).join(" ")} minmax(84px, 1fr)`,
  };
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
          {asked.of === "sums" ? plural(total, "sum") : `${formatNumber(total)} of ${formatNumber(known)}`}
          {asked.where.map((filter) => (
            <button
              key={filter.column}
              type="button"
              className="filtered"
              title="Filter by this no more"
              onClick={() => onAsked({ ...asked, where: asked.where.filter((other) => other !== filter) })}
            >
              {said(filter, columns)} ×
            </button>
          ))}
        </span>
        <ColumnChoice
          known={columns}
          shown={names}
          onShown={setNames}
          where={asked.where}
          onWhere={(where) => onAsked({ ...asked, where })}
        />
        {asked.of === "series" && <AskAbout id={id} asked={asked} near={near} total={total} />}
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
      <TroubleNote error={head.error} />
      <div
        className="series-table"
        role="table"
        aria-label="All series"
        aria-rowcount={total + 1}
        ref={box}
        tabIndex={0}
        onKeyDown={walk}
      >
        <div role="row" className="series-row head" style={widths}>
          {heading({ name: "series", title: asked.of === "sums" ? "sum" : "series", tip: "", kind: "text" })}
          <span role="columnheader">last 90, and expected</span>
          {shown.map((column) => heading(column))}
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
                  ...widths,
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
                    {shown.map((column) => {
                      const text = cellText(column, row.cells[column.name]);
                      const far = column.name === "away" && (row.away ?? 0) > 1;
                      return (
                        <span
                          role="cell"
                          key={column.name}
                          title={column.kind === "text" ? text : undefined}
                          className={`${column.kind === "number" ? "number" : ""}${far ? " attention" : ""}`}
                        >
                          {text}
                        </span>
                      );
                    })}
                    <span role="cell">
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

/** A filter in words. */
function said({ column, least, most, contains }: Where, columns: Column[]): string {
  const title = columns.find((known) => known.name === column)?.title ?? column;
  if (contains) return `${title} contains “${contains}”`;
  if (least !== undefined && most !== undefined) return `${title} from ${least} to ${most}`;
  return least !== undefined ? `${title} from ${least}` : `${title} up to ${most}`;
}

const MOST_ASKED = 1000;

/** The rows that are found, put on the list of what to ask about. */
function AskAbout({ id, asked, near, total }: { id: number; asked: Asked; near: Near; total: number }) {
  const client = useQueryClient();
  const asking = useMutation({
    mutationFn: () =>
      dataOf<Schemas["Listed"]>(
        api.POST("/api/studies/{study_id}/all-series/follow-up", {
          params: { path: { study_id: id }, query: queryOf(asked, near) },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["follow-up", id] });
      void client.invalidateQueries({ queryKey: ["studies"] });
    },
  });
  const done = asking.data;
  const key = JSON.stringify([asked, near]);
  const { reset } = asking;
  // what was said is said of other rows
  useEffect(reset, [key, reset]);
  return (
    <span className="ask-about">
      {done && (
        <span className="muted small" role="status">
          {formatNumber(done.listed)} put there{done.left > 0 && `, ${formatNumber(done.left)} were there`}
        </span>
      )}
      {asking.error && <TroubleNote error={asking.error} />}
      <Button
        size="small"
        disabled={total === 0 || total > MOST_ASKED}
        title={total > MOST_ASKED ? `At most ${formatNumber(MOST_ASKED)} at once` : undefined}
        loading={asking.isPending}
        onClick={() => asking.mutate()}
      >
        Put them on the follow-up list
      </Button>
    </span>
  );
}
