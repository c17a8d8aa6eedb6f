import { App as AntApp, Button, Dropdown, Input, Segmented } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, dataOf, type Schemas } from "../api/client";
import { TopBar } from "../app/TopBar";
import { fileSize, formatDate, formatLabel, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import { FirstHour } from "./FirstHour";
import { BringBack } from "./BringBack";
import { CopyForColumns } from "./CopyForColumns";
import { Spark } from "./Spark";

type Card = Schemas["StudyCard"];

const AGAIN = 3000; // milliseconds
/** Up to so many studies are seen at once: nothing to search. */
const FEW = 3;
const needs = (card: Card) => Number(card.waits !== "") + Number(card.feed_trouble !== "") + card.call_count;
const ORDERS: Record<string, (a: Card, b: Card) => number> = {
  "needs a look": (a, b) => needs(b) - needs(a) || b.study.changed_at.localeCompare(a.study.changed_at),
  "changed last": (a, b) => b.study.changed_at.localeCompare(a.study.changed_at),
  "by name": (a, b) => a.study.name.localeCompare(b.study.name),
  "most to ask about": (a, b) => b.open - a.open || a.study.name.localeCompare(b.study.name),
};

/** What I have, and the way to bring in more. */
export function StudiesPage() {
  const navigate = useNavigate();
  const [find, setFind] = useState("");
  const [order, setOrder] = useState("needs a look");
  const [trouble, setTrouble] = useState<unknown>();
  const query = useQuery({
    queryKey: ["studies"],
    queryFn: () => dataOf<Schemas["StudyList"]>(api.GET("/api/studies")),
    refetchOnMount: "always",
    // a card whose study is still being worked out is looked at again
    refetchInterval: ({ state }) => (state.data?.studies.some((study) => study.unfinished) ? AGAIN : false),
  });
  const bringIn = (
    <Button type="primary" onClick={() => void navigate("/intake")}>
      Bring in a file
    </Button>
  );
  const studies = query.data?.studies ?? [];
  const unused = query.data?.unused ?? [];
  const damaged = query.data?.damaged ?? [];
  const removed = query.data?.removed ?? [];
  const said = find.trim().toLowerCase();
  const wanted = studies
    .filter(({ study }) => `${study.name}\n${study.file}`.toLowerCase().includes(said))
    .sort(ORDERS[order]);
  return (
    <div className="page">
      <TopBar
        actions={
          <>
            <Link to="/keeping">Keeping</Link>
            <BringBack onTrouble={setTrouble} />
            {bringIn}
          </>
        }
      >
        <h1 className="study-name">Studies</h1>
      </TopBar>
      <main className="studies">
        <TroubleNote error={trouble ?? query.error} onClose={() => setTrouble(undefined)} />
        {damaged.length > 0 && (
          <section className="damaged" aria-label="Studies that cannot be read">
            <h2>Set apart: cannot be read</h2>
            <ul>
              {damaged.map((lost) => (
                <li key={lost.id}>
                  <b>{lost.name}</b>: {lost.why} Its revisions and its file are kept
                  {lost.dataset_id !== null && (
                    <>
                      ; <Link to={`/intake/${lost.dataset_id}`}>begin a new study from it</Link>
                    </>
                  )}
                  .
                </li>
              ))}
            </ul>
          </section>
        )}
        {query.data && !studies.length && !unused.length && !damaged.length && <FirstHour />}
        {studies.length > FEW && (
          <div className="studies-bar" role="search">
            <Input
              allowClear
              placeholder="Find a study or a file"
              aria-label="Find a study or a file"
              value={find}
              onChange={(event) => setFind(event.target.value)}
            />
            <Segmented
              options={Object.keys(ORDERS)}
              value={order}
              onChange={setOrder}
              aria-label="Order of the studies"
            />
            <span className="muted" role="status">
              {wanted.length === studies.length
                ? plural(studies.length, "study", "studies")
                : `${wanted.length} of ${plural(studies.length, "study", "studies")}`}
            </span>
          </div>
        )}
        {studies.length > 0 && (
          <div className="cards">
            {wanted.map((card) => (
              <StudyCard key={card.study.id} card={card} />
            ))}
          </div>
        )}
        {studies.length > 0 && !wanted.length && (
          <p className="muted">No study or file has “{find}” in its name.</p>
        )}
        {removed.length > 0 && <Removed studies={removed} />}
        {unused.length > 0 && (
          <section className="unused">
            <h2>Received, not studied yet</h2>
            <ul>
              {unused.map((dataset) => (
                <li key={dataset.id}>
                  <Link to={`/intake/${dataset.id}`}>{dataset.name}</Link>
                  <span className="muted">
                    {fileSize(dataset.size)}, received {formatDate(dataset.received_at)}
                  </span>
                </li>
              ))}
            </ul>
          </section>
        )}
      </main>
    </div>
  );
}

function StudyCard({ card }: { card: Schemas["StudyCard"] }) {
  const { message } = AntApp.useApp();
  const { study } = card;
  const [copying, setCopying] = useState(false);
  const params = { path: { study_id: study.id } };
  const after = useAfter();
  const remove = async () => {
    await after(dataOf(api.DELETE("/api/studies/{study_id}", { params })));
    const key = `removed ${study.id}`;
    void message.open({
      key,
      type: "info",
      duration: 8,
      content: (
        <>
          “{study.name}” removed.{" "}
          <button
            type="button"
            className="link"
            onClick={() => {
              message.destroy(key);
              void after(dataOf(api.POST("/api/studies/{study_id}/restore", { params })));
            }}
          >
            Bring it back
          </button>
        </>
      ),
    });
  };
  // nothing is said of lines that were not looked at yet
  const looked = card.periods > 0;
  return (
    <article className="card">
      <Link to={`/studies/${study.id}`} className="card-chart" aria-label={`Open ${study.name}`}>
        {card.problem ? <p className="entry-problem">{card.problem}</p> : <Spark values={card.spark} />}
      </Link>
      <div className="card-text">
        <h2>
          <Link to={`/studies/${study.id}`}>{study.name}</Link>
        </h2>
        <p>
          {study.file}
          {looked &&
            ` · ${plural(card.series, "series", "series")} · ${formatLabel(card.first)} to ${formatLabel(card.last)}`}
        </p>
        <p className="muted">
          {plural(card.entries, "entry", "entries")} ·{" "}
          {looked && (card.gaps ? `${plural(card.gaps, "point")} open` : "nothing open")}
          {card.open ? ` · ${card.open} to ask about` : ""}
          {looked && " · "}revision {study.revision}, {formatDate(study.changed_at)}
          {card.unfinished && " · not all worked out yet"}
        </p>
        <New card={card} />
      </div>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            {
              key: "copy",
              label: "Copy the study",
              onClick: () =>
                void after(dataOf(api.POST("/api/studies/{study_id}/copy", { params, body: { names: {} } }))),
            },
            { key: "columns", label: "Copy it for other columns…", onClick: () => setCopying(true) },
            {
              key: "remove",
              label: "Remove the study",
              danger: true,
              onClick: () => void remove(),
            },
          ],
        }}
      >
        <button type="button" className="quiet more" aria-label={`What can be done with ${study.name}`}>
          ⋯
        </button>
      </Dropdown>
      {copying && <CopyForColumns study={study} onClose={() => setCopying(false)} />}
    </article>
  );
}

/** What is new of a study: rows that wait, what its watch found, why it could not look. */
function New({ card }: { card: Card }) {
  if (!needs(card)) return null;
  const page = `/studies/${card.study.id}/new-rows`;
  return (
    <ul className="card-news" aria-label={`What is new in ${card.study.name}`}>
      {card.waits && (
        <li>
          <Link to={card.waiting_file === null ? page : `${page}?file=${card.waiting_file}`}>Rows wait</Link>:{" "}
          {card.waits}
        </li>
      )}
      {card.calls.map((call) => (
        <li key={call}>{call}</li>
      ))}
      {card.call_count > card.calls.length && (
        <li>
          <Link to={page}>{plural(card.call_count - card.calls.length, "other call", "other calls")}</Link>
        </li>
      )}
      {card.feed_trouble && (
        <li>
          <Link to={page}>Looking for rows failed</Link>: {card.feed_trouble}
        </li>
      )}
    </ul>
  );
}

/** The list is fetched again after a call; what went wrong is told. */
function useAfter(): (call: Promise<unknown>) => Promise<unknown> {
  const client = useQueryClient();
  const { message } = AntApp.useApp();
  return (call) =>
    call.then(
      () => client.invalidateQueries({ queryKey: ["studies"] }),
      (error: unknown) => message.error(String(error)),
    );
}

/** Studies that were removed: brought back, or removed for good. */
function Removed({ studies }: { studies: Schemas["RemovedStudy"][] }) {
  const { modal } = AntApp.useApp();
  const after = useAfter();
  return (
    <section className="unused" aria-label="Removed studies">
      <h2>Removed</h2>
      <ul>
        {studies.map((study) => {
          const params = { path: { study_id: study.id } };
          return (
            <li key={study.id}>
              <span>{study.name}</span>
              <span className="muted">removed {formatDate(study.removed_at)}</span>
              <button
                type="button"
                className="link"
                onClick={() => void after(dataOf(api.POST("/api/studies/{study_id}/restore", { params })))}
              >
                bring back
              </button>
              <button
                type="button"
                className="link danger"
                onClick={() =>
                  void modal.confirm({
                    title: `Remove “${study.name}” for good?`,
                    content: "Its ledger, its notes and all its revisions go. The file it came from stays.",
                    okText: "Remove for good",
                    cancelText: "Keep it",
                    onOk: () => after(dataOf(api.DELETE("/api/studies/{study_id}/removed", { params }))),
                  })
                }
              >
                remove for good
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
