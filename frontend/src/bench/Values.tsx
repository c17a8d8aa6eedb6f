import { Pagination, Segmented } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, told, type Bench, type Schemas } from "../api/client";
import { formatLabel, formatNumber } from "../ui/format";
import type { Stretch } from "./ConditionStrip";
import { usePointer } from "./pointer";
import { TroubleNote } from "../ui/Trouble";

const PAGE = 200;

interface Props {
  bench: Bench;
  studyId: number;
  onStretch: (stretch: Stretch) => void;
}

/** Every point as a table: the chart's text alternative. */
export function Values({ bench, studyId, onStretch }: Props) {
  const pointer = usePointer();
  const names = bench.figure.series.map((one) => one.name);
  const [chosen, setChosen] = useState<string>();
  const [page, setPage] = useState<number>();
  const [anchor, setAnchor] = useState<number>();
  const series = chosen && names.includes(chosen) ? chosen : names[0];
  const line = bench.figure.series.find((one) => one.name === series);
  const total = line?.points ?? 0;
  const pages = Math.max(1, Math.ceil(total / PAGE));
  const at = Math.min(page ?? pages, pages);
  const query = useQuery({
    queryKey: ["points", studyId, bench.study.revision, series, at],
    enabled: Boolean(series),
    queryFn: () =>
      told<Schemas["PointPage"]>(
        api.GET("/api/studies/{study_id}/points", {
          params: {
            path: { study_id: studyId },
            query: { series: series ?? "", start: (at - 1) * PAGE, count: PAGE },
          },
        }),
      ),
  });
  if (query.error) return <TroubleNote error={query.error} />;
  const data = query.data;
  // a click asks about one period, a click with Shift about all from the one clicked before
  const ask = (place: number, far: boolean, state: string) => {
    const from = far && anchor !== undefined ? Math.min(anchor, place) : place;
    const to = far && anchor !== undefined ? Math.max(anchor, place) : place;
    setAnchor(place);
    onStretch({ series: series ?? "", state, at: from, count: to - from + 1, x: 400 });
  };
  return (
    <div className="values">
      <div className="values-bar">
        {names.length > 1 && (
          <Segmented size="small" options={names} value={series ?? ""} onChange={setChosen} />
        )}
        <Pagination
          size="small"
          simple
          current={at}
          pageSize={PAGE}
          total={total}
          onChange={setPage}
          showSizeChanger={false}
        />
        <span className="muted">{formatNumber(total)} periods, newest last</span>
      </div>
      <div className="values-table">
        <table>
          <thead>
            <tr>
              <th>Period</th>
              <th className="number">As received</th>
              <th className="number">Now</th>
              <th>Received</th>
              <th>Condition</th>
              {data?.columns.map((name, n) => (
                <th key={n} className="number">
                  {name}
                </th>
              ))}
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            {data?.rows.map((row, n) => (
              <tr
                key={row.period}
                className={row.condition === "measured" ? undefined : "marked"}
                onMouseEnter={() => pointer.set(row.at)}
              >
                <td>
                  <button
                    type="button"
                    className="link"
                    title="What it is and what can be done; with Shift, all from the one clicked before"
                    onClick={(event) => ask((at - 1) * PAGE + n, event.shiftKey, row.condition)}
                  >
                    {formatLabel(row.period)}
                  </button>
                </td>
                <td className="number">{row.raw || "·"}</td>
                <td className="number">{formatNumber(row.value)}</td>
                <td>{row.received}</td>
                <td>{row.condition}</td>
                {row.readings.map((value, at2) => (
                  <td key={at2} className="number">
                    {formatNumber(value)}
                  </td>
                ))}
                <td className="why" title={row.reason}>
                  {row.reason}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
