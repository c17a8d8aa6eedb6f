import "../bench/bench.css";
import "./picture.css";
import { Button } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { api, dataOf, type Schemas } from "../api/client";
import { TopBar } from "../app/TopBar";
import { ViewSwitch } from "../bench/ViewSwitch";
import { Waiting } from "../bench/Waiting";
import { waited } from "../api/waiting";
import { formatDate, formatLabel, formatNumber, formatSigned, plural } from "../ui/format";

/** A frozen picture, and what has changed since, period by period. */
export function SnapshotPage() {
  const { studyId, snapshotId } = useParams();
  const study = Number(studyId);
  const navigate = useNavigate();
  const client = useQueryClient();
  const path = { study_id: study, snapshot_id: Number(snapshotId) };
  const query = useQuery({
    queryKey: ["snapshot", path],
    staleTime: 0,
    queryFn: async () =>
      (await waited(
        () => fetch(`/api/studies/${study}/snapshots/${snapshotId}`),
        (answer) => answer.json() as Promise<Schemas["SnapshotView"]>,
      )) ?? null,
  });
  if (!query.data) return <Waiting error={query.error} />;
  const { card, files, svg, points, lines } = query.data;
  const remove = async () => {
    await dataOf(api.DELETE("/api/studies/{study_id}/snapshots/{snapshot_id}", { params: { path } }));
    await client.invalidateQueries({ queryKey: ["snapshots", study] });
    await navigate(`/studies/${study}/picture`);
  };
  return (
    <div className="page full picture-page">
      <TopBar actions={<ViewSwitch id={study} at="picture" />}>
        <Link to={`/studies/${study}/picture`}>Picture</Link> <span className="muted">/</span>{" "}
        <h1 className="study-name">{card.name}</h1>
        <span className="kept">
          as of {formatDate(card.as_of)}, taken {formatDate(card.made_at)} of revision {card.revision}
        </span>
      </TopBar>
      <main className="snapshot-body">
        <section>
          <img
            className="snapshot-picture"
            alt={card.alt}
            src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`}
          />
          <div className="picture-buttons">
            {files.map((name) => (
              <Button
                key={name}
                size="small"
                href={`/api/studies/${study}/snapshots/${card.id}/${name}`}
                download
              >
                {name}
              </Button>
            ))}
            <Button size="small" danger onClick={() => void remove()}>
              take it off
            </Button>
          </div>
        </section>
        <aside aria-label="What changed since">
          <Changed title="Points that differ now" found={points} />
          <Changed title="Readings and projections that differ now" found={lines} />
        </aside>
      </main>
    </div>
  );
}

const SAID: Record<string, string> = {
  "another value": "with another value",
  "another condition": "in another condition",
  "other limits": "with other limits",
};

function Changed({ title, found }: { title: string; found: Schemas["ChangedPeriods"] }) {
  const all = Object.values(found.counts).reduce((sum, value) => sum + value, 0);
  return (
    <>
      <h2>{title}</h2>
      <p className="muted small">
        {all === 0
          ? "None: they are as they were."
          : Object.entries(found.counts)
              .map(([how, count]) => `${formatNumber(count)} ${SAID[how] ?? how}`)
              .join(", ")}
        {all > found.rows.length && `; the first ${plural(found.rows.length, "period")} of them`}
      </p>
      {found.rows.length > 0 && (
        <table className="changed">
          <thead>
            <tr>
              <th>period</th>
              <th>of</th>
              <th className="number">was</th>
              <th className="number">is now</th>
              <th className="number">by</th>
              <th>how</th>
            </tr>
          </thead>
          <tbody>
            {found.rows.map((row, n) => (
              <tr key={n}>
                <td>{formatLabel(row.period)}</td>
                <td>{[row.series, row.line].filter(Boolean).join(", ")}</td>
                <td className="number">{formatNumber(row.was)}</td>
                <td className="number">{formatNumber(row.now)}</td>
                <td className="number">
                  {row.was !== null && row.now !== null && row.was !== row.now
                    ? formatSigned(row.now - row.was)
                    : ""}
                </td>
                <td>{row.said}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
