import "../projection/projection.css";
import "./newrows.css";
import { Button, Checkbox, Select } from "antd";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, dataOf, Trouble, troubleOf, type Bench, type Params, type Schemas } from "../api/client";
import { post, waited } from "../api/waiting";
import { TopBar } from "../app/TopBar";
import { keepBench } from "../bench/kept";
import { added, newEntry, onEntry } from "../bench/edits";
import { useCatalogue } from "../bench/LedgerPane";
import { useBench, type BenchHandle } from "../bench/useBench";
import { Waiting } from "../bench/Waiting";
import { bringIn, pastedFile } from "../intake/bringing";
import { AsOf } from "../ui/AsOf";
import { formatDate, formatLabel, formatNumber, formatSigned } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { inWords, Scores } from "./Scores";
import { ToldChart } from "./ToldChart";

type View = Schemas["NewRowsView"];
type Kind = View["rows"][number]["kind"];

const KINDS: [Kind, string][] = [
  ["new", "new"],
  ["revised", "revised"],
  ["gone", "gone"],
  ["blank", "blank now"],
];

/** New rows of a study: what came, what it changes, and taking it in. */
export function NewRowsPage() {
  const { studyId } = useParams();
  const id = Number(studyId);
  const [search, setSearch] = useSearchParams();
  const file = Number(search.get("file")) || undefined;
  const client = useQueryClient();
  const { data: catalogue } = useCatalogue();
  const handle = useBench(id);
  const [how, setHow] = useState<Params>();
  const [asOf, setAsOf] = useState<string>();
  const revision = handle.kept?.study.revision;
  const look = useQuery({
    queryKey: ["new rows", id, revision, file, how, asOf],
    enabled: file !== undefined && revision !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (await waited(
        () =>
          post(`/api/studies/${id}/new-rows/preview`, {
            dataset_id: file,
            how: how ?? null,
            as_of: asOf ?? null,
          }),
        (answer) => answer.json() as Promise<View>,
      )) ?? null,
  });
  const choose = (dataset: number) => {
    setHow(undefined);
    setAsOf(undefined);
    setSearch({ file: String(dataset) }, { replace: file !== undefined });
  };
  const study = handle.kept?.study;
  if (!study) return <Waiting error={handle.error} />;
  const view = file === undefined || look.error ? undefined : (look.data ?? undefined);
  return (
    <div className="page full new-rows-page">
      <TopBar
        actions={
          view && <AsOf day={view.as_of} onPreview={() => undefined} onCommit={(day) => setAsOf(day)} />
        }
      >
        <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
        <Link to={`/studies/${id}`} className="study-name">
          {study.name}
        </Link>{" "}
        <span className="muted">/ new rows</span>
      </TopBar>
      <main className="new-rows">
        <aside aria-label="What came">
          <TroubleNote error={handle.trouble} onClose={handle.dropTrouble} />
          <h2>What came</h2>
          <Choose
            standing={study.dataset_id}
            file={file}
            onFile={(dataset) => {
              void client.invalidateQueries({ queryKey: ["files"] });
              choose(dataset);
            }}
          />
          <TroubleNote error={look.error} />
          {look.error && file !== undefined && (
            <p>
              <Link to={`/intake/${file}`}>Bring it in as a study of its own</Link>; this one stays as it is.
            </p>
          )}
          {look.isFetching && !view && <p className="muted">Reading it as the last one was…</p>}
          {view && (
            <Came
              view={view}
              handle={handle}
              words={catalogue?.taking ?? []}
              onWords={setHow}
              id={id}
              revision={study.revision}
              file={file ?? 0}
              asOf={asOf}
              how={how}
            />
          )}
          {!view && !look.error && file === undefined && (
            <p className="muted">
              The study stands on <b>{study.file}</b>. Bring in next month’s file, the whole table again or
              only what is new: it is read as the last one was and shown here. Nothing is taken before you say
              so, and Undo takes it out again.
            </p>
          )}
          <Known id={id} revision={study.revision} />
          <p>
            <Link to={`/studies/${id}/said`}>What we said each time</Link>
          </p>
        </aside>
        <section>{view && <Happened view={view} />}</section>
      </main>
    </div>
  );
}

/** The files that the study stood on; each is there again as it was known then. */
function Known({ id, revision }: { id: number; revision: number }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [trouble, setTrouble] = useState<unknown>();
  const path = { study_id: id };
  const known = useQuery({
    queryKey: ["known", id, revision],
    queryFn: () =>
      dataOf<Schemas["KnownFiles"]>(api.GET("/api/studies/{study_id}/known", { params: { path } })),
  });
  const files = known.data?.files ?? [];
  const go = async (day: string) => {
    try {
      const body = { base: revision, day };
      const answer = await dataOf<Bench>(
        api.PUT("/api/studies/{study_id}/known", { params: { path }, body }),
      );
      await keepBench(client, id, answer);
      await client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "bench" });
      await navigate(`/studies/${id}`);
    } catch (error) {
      setTrouble(error);
    }
  };
  if (files.length < 2) return null;
  return (
    <>
      <h2>As it was known</h2>
      <table className="told-table">
        <tbody>
          {files.map((file) => (
            <tr key={`${file.file} ${file.as_of}`}>
              <td>{file.file}</td>
              <td>from {formatDate(file.as_of)}</td>
              <td>
                {file.now ? (
                  "now"
                ) : (
                  <button type="button" className="link" onClick={() => void go(file.as_of)}>
                    as it was then
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <TroubleNote error={trouble} />
    </>
  );
}

/** A file that was received before, one from the disk, or a paste. */
function Choose({
  standing,
  file,
  onFile,
}: {
  standing: number;
  file: number | undefined;
  onFile: (dataset: number) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState<unknown>();
  const [reading, setReading] = useState<string>();
  const files = useQuery({
    queryKey: ["files"],
    queryFn: () => dataOf<Schemas["DatasetList"]>(api.GET("/api/datasets")),
  });
  const send = (chosen: File | undefined) => {
    if (!chosen) return;
    setTrouble(undefined);
    setReading("sending it");
    bringIn(chosen, ({ doing }) => setReading(doing))
      .then((understanding) => onFile(understanding.dataset.id))
      .catch(setTrouble)
      .finally(() => setReading(undefined));
  };
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      if (event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement) return;
      const pasted = event.clipboardData?.files[0];
      const text = event.clipboardData?.getData("text/plain");
      if (!pasted && !text?.trim()) return;
      event.preventDefault();
      send(pasted ?? pastedFile(text ?? ""));
    };
    document.addEventListener("paste", onPaste);
    return () => document.removeEventListener("paste", onPaste);
  });
  const others = (files.data?.datasets ?? []).filter((dataset) => dataset.id !== standing);
  return (
    <>
      <div className="came-choose">
        <Button size="small" onClick={() => input.current?.click()}>
          Choose a file, or paste rows
        </Button>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="File with new rows"
          onChange={(event) => send(event.target.files?.[0])}
        />
        {others.length > 0 && (
          <Select
            size="small"
            placeholder="or one already received"
            aria-label="A file already received"
            value={file ?? null}
            options={others.map((other) => ({
              value: other.id,
              label: `${other.name}, received ${formatDate(other.received_at)}`,
            }))}
            onChange={(chosen: number | null) => chosen && onFile(chosen)}
          />
        )}
      </div>
      {reading && <p className="muted">{reading}…</p>}
      <TroubleNote error={trouble} />
    </>
  );
}

interface CameProps {
  view: View;
  handle: BenchHandle;
  words: Schemas["SlotView"][];
  onWords: (how: Params) => void;
  id: number;
  revision: number;
  file: number;
  how: Params | undefined;
  asOf: string | undefined;
}

function Came({ view, handle, words, onWords, id, revision, file, how, asOf }: CameProps) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [kind, setKind] = useState<Kind>();
  const [waved, setWaved] = useState(false);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<unknown>();
  const most = KINDS.map(([name]) => name).find((name) => name !== "new" && view.counts[name]) ?? "new";
  const shown = kind ?? most;
  const rows = view.rows.filter((row) => row.kind === shown);
  const take = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      const answer = await waited(
        () =>
          fetch(`/api/studies/${id}/new-rows`, {
            method: "PUT",
            headers: { "Content-Type": "application/json" },
            body: JSON.stringify({
              base: revision,
              dataset_id: file,
              how: how ?? view.how,
              as_of: asOf ?? view.as_of,
              waved,
            }),
          }),
        async (given) => {
          if (!given.ok) throw troubleOf(await given.json(), given.status);
          return (await given.json()) as Bench;
        },
      );
      if (!answer) throw new Trouble("It was stopped; nothing was taken in.", 0);
      await keepBench(client, id, answer);
      await client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "bench" });
      await navigate(`/studies/${id}`);
    } catch (error) {
      setTrouble(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <div className="came-words" data-entry="taking">
        <p>
          <b>{view.file}</b>,{" "}
          {view.as_read ? "read as the last one was." : "read by its own form; its columns are the same."}
        </p>
        <Sentence
          parts={view.parts}
          params={view.how}
          words={words}
          options={{}}
          onPreview={() => undefined}
          onCommit={onWords}
        />
      </div>
      {view.unlike && <p className="attention">{view.unlike}</p>}
      <div className="came-counts" role="group" aria-label="What changed">
        {KINDS.map(([name, label]) => (
          <button
            key={name}
            type="button"
            aria-pressed={name === shown}
            className={name === shown ? "at" : undefined}
            onClick={() => setKind(name)}
          >
            <b className={name !== "new" && view.counts[name] ? "attention" : undefined}>
              {formatNumber(view.counts[name] ?? 0)}
            </b>
            {label}
          </button>
        ))}
      </div>
      {rows.length > 0 && (
        <div className="came-rows">
          <table className="told-table">
            <thead>
              <tr>
                <th>{KINDS.find(([name]) => name === shown)?.[1]}</th>
                <th className="number">was</th>
                <th className="number">is</th>
                <th className="number">by</th>
              </tr>
            </thead>
            <tbody>
              {rows.slice(0, 200).map((row) => (
                <tr key={`${row.series} ${row.period}`}>
                  <td>
                    {formatLabel(row.period)} · {row.series}
                  </td>
                  <td className="number">{row.was === null ? "–" : formatNumber(row.was)}</td>
                  <td className="number">{row.now === null ? "–" : formatNumber(row.now)}</td>
                  <td className="number">
                    {row.was === null || row.now === null
                      ? ""
                      : formatSigned(Number((row.now - row.was).toPrecision(6)))}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {(view.counts.revised ?? 0) > 0 && (
        <p className="muted small">
          {view.foreseen} of the {view.counts.revised} revised were provisional.{" "}
          {view.tail !== null && <Tail tail={view.tail} view={view} handle={handle} />}
        </p>
      )}
      {view.new_series.length > 0 && <p>New series: {view.new_series.slice(0, 12).join(", ")}.</p>}
      {view.lost_series.length > 0 && (
        <p className="attention">Not in it any more: {view.lost_series.slice(0, 12).join(", ")}.</p>
      )}
      <h2>What the ledger does with it</h2>
      <table className="told-table">
        <thead>
          <tr>
            <th>entry</th>
            <th className="number">before</th>
            <th className="number">now</th>
          </tr>
        </thead>
        <tbody>
          {view.entries.map((entry) => (
            <tr key={entry.id}>
              <td title={entry.problem || entry.sentence}>
                {entry.title}, {entry.what}{" "}
                {entry.problem && <span className="attention">no longer fits</span>}
              </td>
              <td className="number">{entry.before === null ? "–" : formatNumber(entry.before)}</td>
              {entry.now === null ? (
                <td className="number muted" title="Worked out when they are taken in">
                  {entry.problem ? "–" : "then"}
                </td>
              ) : (
                <td className={entry.before === entry.now ? "number" : "number attention"}>
                  {formatNumber(entry.now)}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {view.misfits.map((misfit) => (
        <p key={misfit} className="attention small">
          {misfit}
        </p>
      ))}
      {view.questions.length > 0 && (
        <div className="newer-questions">
          <h2>Open questions about this file</h2>
          <ul>
            {view.questions.map((question) => (
              <li key={question.title}>
                <b>{question.title}</b> {question.text}
              </li>
            ))}
          </ul>
          <Checkbox checked={waved} onChange={(event) => setWaved(event.target.checked)}>
            Wave them through; they stand in the method note
          </Checkbox>
        </div>
      )}
      <TroubleNote error={trouble} />
      <div className="came-take">
        <Button
          type="primary"
          loading={busy}
          disabled={view.questions.length > 0 && !waved}
          onClick={() => void take()}
        >
          Take them in
        </Button>
        <Button onClick={() => void navigate(`/studies/${id}`)}>Leave it as it was</Button>
      </div>
    </>
  );
}

/** How long a provisional tail would have covered the revisions, with one click to have it so. */
function Tail({ tail, view, handle }: { tail: number; view: View; handle: BenchHandle }) {
  const entry = handle.kept?.entries.find((found) => found.kind === "provisional" && found.on);
  const rule = entry?.params.rule as { kind?: string; last?: number } | undefined;
  const said = `A tail of the last ${tail} ${view.periods} would have covered 95 % of them`;
  if (rule?.kind === "last" && rule.last === tail) return <>{said}, as it is.</>;
  const words = { rule: { kind: "last", last: tail } };
  const mark = () =>
    void handle.commit(
      entry
        ? onEntry(entry.id, (record) => ({ ...record, params: { ...record.params, ...words } }))
        : added(newEntry("provisional", words)),
      `Provisional: the last ${tail} ${view.periods}`,
    );
  return (
    <>
      {said}.{" "}
      <button type="button" className="link" onClick={mark}>
        Make it {tail}
      </button>
    </>
  );
}

function Happened({ view }: { view: View }) {
  const [series, setSeries] = useState<string>();
  const told = view.series.find((drawn) => drawn.series === series) ?? view.series[0];
  const points = view.scores[0]?.points ?? 0;
  return (
    <>
      {told && <ToldChart told={told} from={view.scored_as_of} />}
      <div className="happened">
        <div>
          <h2>How it did{points ? `, ${formatNumber(points)} ${view.periods}` : ""}</h2>
          {view.scores.length > 0 ? (
            <>
              <Scores scores={view.scores} chosen={told?.series} onChoose={setSeries} />
              <p className="muted small">{inWords(view.scores)}</p>
            </>
          ) : (
            <p className="muted">
              Nothing was projected for what came; a projection in the ledger is scored here next time.
            </p>
          )}
        </div>
        <div>
          <h2>Kept from last time</h2>
          {view.followups.length > 0 ? (
            <table className="told-table">
              <thead>
                <tr>
                  <th>follow-up</th>
                  <th>state</th>
                  <th>now</th>
                </tr>
              </thead>
              <tbody>
                {view.followups.slice(0, 60).map((item) => (
                  <tr key={`${item.series} ${item.period}`}>
                    <td>
                      {formatLabel(item.period)} · {item.series}
                      {item.note ? `, ${item.note}` : item.found_by.length ? `, ${item.found_by[0]}` : ""}
                    </td>
                    <td>{item.now === "new" ? "–" : item.state}</td>
                    <td className={item.now === "new" ? "attention" : undefined}>{item.now}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            <p className="muted">Nothing on the follow-up list is open.</p>
          )}
          <p className="muted small">
            Snapshots made before today stay as they were. Undo takes the rows out again.
          </p>
        </div>
      </div>
    </>
  );
}
