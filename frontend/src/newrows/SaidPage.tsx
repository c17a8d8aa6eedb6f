import "../projection/projection.css";
import "./newrows.css";
import { Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { waited } from "../api/waiting";
import { useLook } from "../app/look";
import { TopBar } from "../app/TopBar";
import { onEntry } from "../bench/edits";
import { useBench, type BenchHandle } from "../bench/useBench";
import { ViewSwitch } from "../bench/ViewSwitch";
import { Waiting } from "../bench/Waiting";
import { linearScale, niceRange, timeScale } from "../figure/scale";
import { endName, EndNames, SmallChart } from "../projection/small";
import { FootTicks, ValueGrid } from "../ui/axes";
import { formatDate, formatNumber } from "../ui/format";
import { linePath } from "../ui/paths";
import { inWords, Scores } from "./Scores";
import { HappenedLine, parted } from "./HappenedLine";
import { dayOf } from "./ToldChart";

type View = Schemas["EverySaidView"];

/** Every projection that the study stood by, under what happened. */
export function SaidPage() {
  const { studyId } = useParams();
  const id = Number(studyId);
  const [series, setSeries] = useState<string>();
  const handle = useBench(id);
  const said = useQuery({
    queryKey: ["said", id, handle.kept?.study.revision],
    enabled: handle.kept !== undefined,
    queryFn: async () =>
      (await waited(
        () => fetch(`/api/studies/${id}/said`),
        (answer) => answer.json() as Promise<View>,
      )) ?? null,
  });
  const study = handle.kept?.study;
  if (!study || !said.data) return <Waiting error={handle.error ?? said.error} />;
  const view = said.data;
  const told = view.series.find((drawn) => drawn.series === series) ?? view.series[0];
  return (
    <div className="page full new-rows-page">
      <TopBar actions={<ViewSwitch id={id} at="projection" />}>
        <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
        <Link to={`/studies/${id}`} className="study-name">
          {study.name}
        </Link>{" "}
        <span className="muted">/ what we said each time</span>
      </TopBar>
      <main className="said">
        {told ? (
          <>
            <div className="said-head">
              {view.series.length > 1 && (
                <Select
                  size="small"
                  aria-label="Series that is shown"
                  value={told.series}
                  options={view.series.map(({ series: name }) => ({ value: name, label: name }))}
                  onChange={setSeries}
                />
              )}
              <span className="muted">
                Kept when a picture or numbers are handed over, when a snapshot is taken and when new rows
                come in; scored on what happened since. Nothing of it changes a projection.
              </span>
            </div>
            <Every told={told} />
            <h2>All of them together</h2>
            <Scores scores={view.together} chosen={told.series} onChoose={setSeries} />
            <p className="muted small">{inWords(view.together)}</p>
            <Wider view={view} handle={handle} />
            {view.by_ahead.length > 0 && (
              <>
                <h2>By how far ahead, all series</h2>
                <Reaches reaches={view.by_ahead} periods={view.periods} />
              </>
            )}
            <h2>{told.series}, each of them</h2>
            <Each view={view} series={told.series} />
          </>
        ) : (
          <p className="muted">
            The study has said nothing yet: a projection is kept when it is handed over, when a snapshot is
            taken of it and when new rows come in.
          </p>
        )}
      </main>
    </div>
  );
}

/** How wide limits would have to be to have held so far, and having them so. */
function Wider({ view, handle }: { view: View; handle: BenchHandle }) {
  const entries = (handle.kept?.entries ?? []).filter((entry) => entry.on && (view.wider[entry.id] ?? 0) > 0);
  return entries.map((entry) => {
    const times = Number((view.wider[entry.id] ?? 1).toPrecision(3));
    const held = entry.params.limits === "held";
    if (held && entry.params.wider === times)
      return (
        <p key={entry.id}>Limits of this projection are as they have held so far: {times} times as wide.</p>
      );
    if (times === 1 && !held)
      return (
        <p key={entry.id} className="muted">
          By what happened, limits need not be wider than they are.
        </p>
      );
    return (
      <p key={entry.id}>
        To have held so far, limits would have to be <b>{times} times</b> as wide as the method’s.{" "}
        <button
          type="button"
          className="link"
          onClick={() =>
            void handle.commit(
              onEntry(entry.id, (record) => ({
                ...record,
                params: { ...record.params, limits: "held", wider: times },
              })),
              `Limits as they have held so far, ${times} times as wide`,
            )
          }
        >
          Have the next ones so
        </button>
      </p>
    );
  });
}

function Reaches({ reaches, periods }: { reaches: View["by_ahead"]; periods: string }) {
  return (
    <table className="told-table">
      <thead>
        <tr>
          <th>{periods} ahead</th>
          <th className="number">points</th>
          <th className="number">scaled error</th>
          {(reaches[0]?.inside ?? []).map(([level]) => (
            <th key={String(level)} className="number">
              in {String(level)} %
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {reaches.map((reach) => (
          <tr key={reach.first}>
            <td>{reach.first === reach.last ? reach.first : `${reach.first} to ${reach.last}`}</td>
            <td className="number">{formatNumber(reach.points)}</td>
            <td className="number">{reach.error === null ? "–" : reach.error.toFixed(2)}</td>
            {reach.inside.map(([level, many]) => (
              <td key={String(level)} className="number">
                {formatNumber((100 * Number(many)) / reach.points, 0)} %
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Every({ told }: { told: View["series"][number] }) {
  const { palette } = useLook();
  const begin = Math.min(...told.said.map((line) => line.t[0] ?? Infinity));
  const end = Math.max(told.t.at(-1) ?? 0, ...told.said.map((line) => line.t.at(-1) ?? 0));
  const from = Math.max(told.t[0] ?? 0, begin - (end - begin) * 0.6);
  const low = told.t.findIndex((at) => at >= from);
  const t = told.t.slice(low);
  const now = told.now.slice(low);
  const [finished, unfinished] = parted(t, now, told.unfinished);
  const every = [now, ...told.said.map((line) => line.mean)]
    .flat()
    .filter((amount): amount is number => amount !== null);
  return (
    <SmallChart
      title={`${told.series}: what we said each time, and what happened`}
      height={330}
      right={132}
      numbers={every}
      label={`${told.series} with ${told.said.length} projections as they were told`}
      draw={(room) => {
        const value = linearScale(niceRange(Math.min(...every), Math.max(...every)), [room.bottom, room.top]);
        const time = timeScale(from, end, [room.left, room.right]);
        const last = told.said.at(-1);
        return (
          <>
            <ValueGrid scale={value} room={room} />
            <FootTicks scale={time} room={room} />
            {told.said.map((line) => (
              <path
                key={line.revision}
                d={linePath(line.t, line.mean, time, value)}
                fill="none"
                stroke={palette.iris}
                strokeWidth={line === last ? 1.8 : 1}
                opacity={line === last ? 1 : 0.6}
              >
                <title>said as of {formatDate(line.as_of)}</title>
              </path>
            ))}
            <HappenedLine t={t} finished={finished} unfinished={unfinished} time={time} value={value} />
            <EndNames
              room={room}
              names={[
                ...endName("what happened", finished, value, palette.lagoon),
                ...(last ? endName(`said on ${dayOf(last.as_of)}`, last.mean, value, palette.iris) : []),
              ]}
            />
          </>
        );
      }}
    />
  );
}

function Each({ view, series }: { view: View; series: string }) {
  return (
    <table className="told-table">
      <thead>
        <tr>
          <th>said as of</th>
          <th>kept when</th>
          <th className="number">periods since</th>
          <th className="number">scaled error</th>
          <th className="number">last season’s</th>
          <th className="number">inside</th>
        </tr>
      </thead>
      <tbody>
        {view.issued.map((issued) => {
          const score = issued.scores.find((row) => row.series === series);
          return (
            <tr key={issued.revision}>
              <td>{formatDate(issued.as_of)}</td>
              <td>{issued.why}</td>
              <td className="number">{score?.points ?? 0}</td>
              <td className="number">{score?.error == null ? "–" : score.error.toFixed(2)}</td>
              <td className="number">{score?.naive == null ? "–" : score.naive.toFixed(2)}</td>
              <td className="number">
                {score?.points
                  ? score.inside.map(([level, many]) => `${String(many)} in ${String(level)} %`).join(", ")
                  : "nothing has happened yet"}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
