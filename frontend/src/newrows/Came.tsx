import { Button } from "antd";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Trouble, troubleOf, type Bench, type Params, type Schemas } from "../api/client";
import { waited } from "../api/waiting";
import { keepBench } from "../bench/kept";
import type { BenchHandle } from "../bench/useBench";
import { formatLabel, formatNumber, formatSigned } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { RowsQuestions } from "./RowsQuestions";
import { Tail } from "./Tail";

type View = Schemas["NewRowsView"];
type Kind = View["rows"][number]["kind"];

const KINDS: [Kind, string][] = [
  ["new", "new"],
  ["revised", "revised"],
  ["gone", "gone"],
  ["blank", "blank now"],
];

interface CameProps {
  view: View;
  handle: BenchHandle;
  words: Schemas["SlotView"][];
  onWords: (how: Params) => void;
  onAnswer: (answer: Schemas["RowsAnswer"]) => void;
  id: number;
  revision: number;
  file: number;
  how: Params | undefined;
  asOf: string | undefined;
  read: Schemas["HowRead"] | undefined;
}

/** What came: how it is taken, what it changes, and taking it in. */
export function Came({
  view,
  handle,
  words,
  onWords,
  onAnswer,
  id,
  revision,
  file,
  how,
  asOf,
  read,
}: CameProps) {
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
              read: read ?? null,
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
          {Object.keys(view.renamed).length > 0
            ? "read as Intake has it."
            : view.as_read
              ? "read as the last one was."
              : "read by its own form; its columns are the same."}
          {Object.entries(view.renamed).map(([name, counts]) => (
            <span key={name}>
              {" "}
              Its column <b>{name}</b> counts as <b>{counts}</b>.
            </span>
          ))}
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
      <RowsQuestions questions={view.questions} waved={waved} onWave={setWaved} onAnswer={onAnswer} />
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
        <div className="came-rows" tabIndex={0} role="region" aria-label="Periods that differ">
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
                {entry.problem && (
                  <span className="attention">
                    {entry.refused ? "no longer fits" : "did not fit before either"}
                  </span>
                )}
                {entry.found_count > 0 && (
                  <div className="small">
                    <span className="attention">{formatNumber(entry.found_count)} new</span>:{" "}
                    {entry.found.join(", ")}
                    {entry.found_count > entry.found.length && " and others"}
                  </div>
                )}
                {entry.lost_count > 0 && (
                  <div className="muted small">{formatNumber(entry.lost_count)} found no longer</div>
                )}
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
