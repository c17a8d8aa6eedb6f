import { App as AntApp, Button, DatePicker, Select } from "antd";
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import dayjs from "dayjs";
import { useEffect, useRef, useState, type CSSProperties, type KeyboardEvent, type MouseEvent } from "react";
import { api, dataOf, type Bench, type Schemas } from "../api/client";
import { formatLabel, formatNumber, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import type { Stretch } from "./ConditionStrip";
import { usePointer } from "./pointer";
import { wordFor } from "../figure/reading";

type Page = Schemas["ValuePage"];

const PAGE = 200;
/** Pixels; closer together on a low screen, so that eight rows have room beside the chart. */
const ROW = window.innerHeight < 720 ? 18 : 25;
const COPIED = 5000;
/** Rows drawn beyond what is seen, so that scrolling shows no hole. */
const BEYOND = 12;

interface Props {
  bench: Bench;
  studyId: number;
  onStretch: (stretch: Stretch) => void;
}

function fetched(studyId: number, columns: string[], start: number, count: number, seek?: string) {
  return dataOf<Page>(
    api.GET("/api/studies/{study_id}/values", {
      params: {
        path: { study_id: studyId },
        query: { columns, start, count, ...(seek ? { seek } : {}) },
      },
    }),
  );
}

/** Every period with every line, as one table: the chart's text alternative. */
export function Values({ bench, studyId, onStretch }: Props) {
  const pointer = usePointer();
  const { message } = AntApp.useApp();
  const box = useRef<HTMLDivElement>(null);
  const [columns, setColumns] = useChosen(studyId);
  const [picked, setPicked] = useState<{ anchor: number; at: number }>();
  const { revision } = bench.study;
  const shownSeries = bench.figure.series.map((series) => series.name).join("\n");
  const head = useQuery({
    queryKey: ["values", studyId, revision, shownSeries, columns, "head"],
    queryFn: () => fetched(studyId, columns, 0, 0),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const total = head.data?.total ?? 0;
  // a column that is gone with its entry: what is drawn is shown again
  const { isError } = head;
  useEffect(() => {
    if (isError && columns.length) setColumns([]);
  }, [isError, columns.length, setColumns]);
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: BEYOND,
    // the heading stands over the first row that is seen
    scrollPaddingStart: ROW,
  });
  const drawn = rows.getVirtualItems();
  const first = drawn[0]?.index ?? 0;
  const last = (drawn.at(-1)?.index ?? -1) + 1;
  const pages = Array.from(
    { length: total ? Math.floor(Math.max(0, last - 1) / PAGE) - Math.floor(first / PAGE) + 1 : 0 },
    (_, n) => Math.floor(first / PAGE) + n,
  );
  const parts = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["values", studyId, revision, shownSeries, columns, page],
      queryFn: () => fetched(studyId, columns, page * PAGE, PAGE),
      placeholderData: keepPreviousData<Page>,
    })),
  });
  // the newest are seen first; later on it stays where it was left
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current || !box.current || !total) return;
    begun.current = true;
    box.current.scrollTop = box.current.scrollHeight;
  }, [total]);
  if (head.error && !columns.length) return <TroubleNote error={head.error} />;
  if (!head.data) return <p className="muted">Laying the lines side by side…</p>;
  const every = new Map(head.data.every.map((listed) => [listed.id, listed]));
  const shown = head.data.columns.flatMap((id) => every.get(id) ?? []);
  const others = head.data.every.filter((column) => !head.data.columns.includes(column.id));
  const several = new Set(shown.map((column) => column.of)).size > 1;
  const nameOf = (column: Schemas["ValueColumn"]) =>
    column.kind === "series" || !several || !column.of ? column.name : `${column.of}, ${column.name}`;
  const rowAt = (n: number): [Page, number] | undefined => {
    const page = parts[Math.floor(n / PAGE) - (pages[0] ?? 0)]?.data;
    const place = page ? n - page.start : -1;
    return page && place >= 0 && place < page.periods.length ? [page, place] : undefined;
  };
  const jump = async (day: string) => {
    const { place } = await fetched(studyId, columns, 0, 0, day);
    const at = Math.min(total - 1, place ?? 0);
    rows.scrollToIndex(at, { align: "center" });
    setPicked({ anchor: at, at });
  };
  const pick = (n: number, far: boolean) => {
    const at = Math.max(0, Math.min(total - 1, n));
    setPicked({ anchor: far && picked ? picked.anchor : at, at });
    pointer.set(rowAt(at)?.[0].t[rowAt(at)?.[1] ?? 0]);
    rows.scrollToIndex(at);
  };
  const ask = (n: number, column: number) => {
    const [page, place] = rowAt(n) ?? [];
    const of = shown[column];
    const at = page?.places[column]?.[place ?? 0] ?? -1;
    if (!page || place === undefined || of?.kind !== "series" || at < 0) return;
    onStretch({
      series: of.name,
      state: wordFor(bench.figure, page.conditions[column]?.[place]),
      at,
      count: 1,
      x: 400,
    });
  };
  const [from, to] = picked
    ? [Math.min(picked.anchor, picked.at), Math.max(picked.anchor, picked.at)]
    : [-1, -1];
  /** Rows as a table for the clipboard: tabs between cells, full numbers. */
  const copy = async (start: number, end: number) => {
    const lines = [["Period", ...shown.map(nameOf)].join("\t")];
    for (let at = start; at < end; at += COPIED) {
      const page = await fetched(studyId, columns, at, Math.min(COPIED, end - at));
      page.periods.forEach((period, n) =>
        lines.push([period, ...page.values.map((values) => values[n] ?? "")].join("\t")),
      );
    }
    await navigator.clipboard.writeText(`${lines.join("\n")}\n`);
    void message.success(`${plural(lines.length - 1, "period")} copied as a table`);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const at = picked?.at ?? total;
    const page = Math.floor((rows.scrollRect?.height ?? 0) / ROW);
    const moves: Record<string, number> = {
      ArrowUp: at - 1,
      ArrowDown: at + 1,
      PageUp: at - page,
      PageDown: at + page,
      Home: 0,
      End: total - 1,
    };
    const move = moves[event.key];
    if (move !== undefined) pick(move, event.shiftKey);
    else if (event.key === "Enter" && picked) ask(picked.at, 0);
    else if (event.key === "c" && (event.ctrlKey || event.metaKey) && picked) void copy(from, to + 1);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const reorder = (id: string, by: number) => {
    const order = shown.map((column) => column.id);
    const at = order.indexOf(id);
    if (at + by < 0 || at + by >= order.length) return;
    setColumns(order.toSpliced(at, 1).toSpliced(at + by, 0, id));
  };
  return (
    <div className="values">
      <div className="values-bar">
        <span className="muted">{plural(total, "period")}, newest last</span>
        <DatePicker
          size="small"
          placeholder="go to a day"
          aria-label="Go to a day"
          allowClear={false}
          value={null}
          onChange={(day) => day && void jump(dayjs(day).format("YYYY-MM-DD"))}
        />
        {others.length > 0 && (
          <Select
            size="small"
            className="values-add"
            placeholder="add a column"
            aria-label="Add a column"
            showSearch
            value={null}
            options={others.map((other) => ({
              value: other.id,
              label: other.kind === "series" || !other.of ? other.name : `${other.of}, ${other.name}`,
            }))}
            optionFilterProp="label"
            onChange={(id: string | null) => id && setColumns([...shown.map((column) => column.id), id])}
          />
        )}
        <span className="grow" />
        {picked && (
          <Button size="small" onClick={() => void copy(from, to + 1)}>
            Copy {plural(to - from + 1, "row")}
          </Button>
        )}
        <Button size="small" onClick={() => void copy(0, total)}>
          Copy all
        </Button>
      </div>
      <div
        ref={box}
        className="values-table"
        style={{ "--row": `${ROW}px` } as CSSProperties}
        tabIndex={0}
        role="group"
        aria-label="All periods and lines; arrow keys choose, Enter asks, Ctrl C copies"
        onKeyDown={onKeyDown}
      >
        <table role="grid" aria-label="All periods and lines" aria-rowcount={total + 1}>
          <thead>
            <tr role="row">
              <th>Period</th>
              {shown.map((column, n) => (
                <th key={column.id} className="number">
                  {nameOf(column)}
                  {shown.length > 1 && (
                    <span className="column-tools">
                      <button
                        type="button"
                        aria-label={`Move ${nameOf(column)} to the left`}
                        disabled={n === 0}
                        onClick={() => reorder(column.id, -1)}
                      >
                        ‹
                      </button>
                      <button
                        type="button"
                        aria-label={`Move ${nameOf(column)} to the right`}
                        disabled={n === shown.length - 1}
                        onClick={() => reorder(column.id, 1)}
                      >
                        ›
                      </button>
                      <button
                        type="button"
                        aria-label={`Leave out ${nameOf(column)}`}
                        onClick={() =>
                          setColumns(shown.map((other) => other.id).filter((id) => id !== column.id))
                        }
                      >
                        ×
                      </button>
                    </span>
                  )}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <tr style={{ height: first * ROW }} aria-hidden />
            {drawn.map(({ index: n }) => (
              <Row
                key={n}
                of={rowAt(n)}
                n={n}
                bench={bench}
                picked={n >= from && n <= to}
                onPoint={(t) => pointer.set(t)}
                onPick={(event) => pick(n, event.shiftKey)}
                onAsk={(column) => ask(n, column)}
              />
            ))}
            <tr style={{ height: (total - last) * ROW }} aria-hidden />
          </tbody>
        </table>
      </div>
    </div>
  );
}

interface RowProps {
  of: [Page, number] | undefined;
  n: number;
  bench: Bench;
  picked: boolean;
  onPoint: (t: number | undefined) => void;
  onPick: (event: MouseEvent) => void;
  onAsk: (column: number) => void;
}

function Row({ of, n, bench, picked, onPoint, onPick, onAsk }: RowProps) {
  if (!of) {
    return (
      <tr style={{ height: ROW }}>
        <td className="muted">…</td>
      </tr>
    );
  }
  const [page, place] = of;
  return (
    <tr
      role="row"
      aria-rowindex={n + 2}
      aria-selected={picked}
      style={{ height: ROW }}
      onMouseEnter={() => onPoint(page.t[place])}
      onClick={onPick}
    >
      <td>{formatLabel(page.periods[place] ?? "")}</td>
      {page.values.map((values, column) => {
        const sign = bench.figure.signs.find((known) =>
          known.codes.includes(page.conditions[column]?.[place] ?? "."),
        );
        const word = sign && sign.word !== "measured" ? sign.word : "";
        const raw = page.raws[column]?.[place];
        return (
          <td
            key={page.columns[column]}
            className={word ? `number odd ${sign?.texture ?? ""}` : "number"}
            title={raw ? `the cell says “${raw}”` : word ? sign?.meaning : undefined}
            onDoubleClick={() => onAsk(column)}
          >
            {word && (
              <button
                type="button"
                className="link"
                title="What it is and what can be done"
                onClick={(event) => {
                  event.stopPropagation();
                  onAsk(column);
                }}
              >
                {word}
              </button>
            )}
            <b>{values[place] === null || values[place] === undefined ? "" : formatNumber(values[place])}</b>
          </td>
        );
      })}
    </tr>
  );
}

/** The columns chosen for a study, in order; none for what is drawn. Remembered by the browser. */
function useChosen(studyId: number): [string[], (columns: string[]) => void] {
  const key = `zembra values ${studyId}`;
  const [columns, setColumns] = useState<string[]>(() => {
    try {
      const kept: unknown = JSON.parse(localStorage.getItem(key) ?? "[]");
      return Array.isArray(kept) ? kept.map(String) : [];
    } catch {
      return [];
    }
  });
  const [choose] = useState(() => (next: string[]) => {
    setColumns(next);
    localStorage.setItem(key, JSON.stringify(next));
  });
  return [columns, choose];
}
