import "./intake.css";
import { Button, Input } from "antd";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, dataOf, type Schemas, type Understanding } from "../api/client";
import { TopBar } from "../app/TopBar";
import { useCatalogue } from "../bench/LedgerPane";
import { AsOf } from "../ui/AsOf";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { understand } from "./bringing";
import { Census } from "./Census";
import { DropZone } from "./DropZone";
import { FirstLine } from "./FirstLine";
import { KeepWay } from "./KeepWay";
import { Otherwise } from "./Otherwise";
import { PlainlyTold, Questions, stillOpen } from "./Questions";
import { RawRows } from "./RawRows";
import { useBringIn } from "./useBringIn";
import { useUnderstanding } from "./useUnderstanding";

/** From a file to a study: the rows as they came, what Zembra understood, and what is in them. */
export function IntakePage() {
  const { datasetId } = useParams();
  const { received, ...bring } = useBringIn();
  const known = useQuery({
    queryKey: ["understanding", datasetId],
    enabled: Boolean(datasetId) && received?.dataset.id !== Number(datasetId),
    queryFn: () => understand(Number(datasetId), {}),
  });
  const start = received && received.dataset.id === Number(datasetId) ? received : known.data;
  return (
    <div className={datasetId ? "page full" : "page"}>
      <TopBar>
        <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
        <h1 className="study-name">{datasetId && start ? `Intake of ${start.dataset.name}` : "Intake"}</h1>
      </TopBar>
      {datasetId ? (
        start ? (
          <Understood key={start.dataset.id} start={start} />
        ) : (
          <main className="empty">
            {known.error ? <TroubleNote error={known.error} /> : <p>Reading the file…</p>}
          </main>
        )
      ) : (
        <main className="bring">
          <DropZone {...bring} />
        </main>
      )}
    </div>
  );
}

/** Bring the first open question into view and under the keys. */
function toFirstQuestion() {
  const first = document.querySelector<HTMLElement>(".ask");
  first?.scrollIntoView({ block: "center" });
  first?.querySelector("button")?.focus();
}

function Understood({ start }: { start: Understanding }) {
  const asked = useUnderstanding(start);
  const { now } = asked;
  const [lit, setLit] = useState<string>();
  const unanswered = now.questions.filter((question) => !question.closed && !question.plain);
  const open = unanswered.length;
  const speaksOf = unanswered.find((question) => question.key === lit) ?? unanswered[0];
  const [name, setName] = useState(() => start.dataset.name.replace(/\.[a-z0-9]+$/i, ""));
  const { data: catalogue } = useCatalogue();
  const navigate = useNavigate();
  const begin = useMutation({
    mutationFn: () =>
      dataOf<Schemas["BenchView"]>(
        api.POST("/api/studies", {
          body: {
            dataset_id: start.dataset.id,
            name: name.trim() || start.dataset.name,
            ledger: now.ledger,
            as_of: now.as_of,
          },
        }),
      ),
    onSuccess: (bench) => void navigate(`/studies/${bench.study.id}`),
  });
  const [search] = useSearchParams();
  const into = Number(search.get("for")) || undefined;
  useEffect(() => {
    document.title = `${start.dataset.name}, Zembra`;
    return () => void (document.title = "Zembra");
  }, [start.dataset.name]);

  return (
    <main className="intake">
      <section className="intake-left">
        <RawRows rows={now.rows} file={now.dataset} speaksOf={speaksOf} />
        <FirstLine now={now} />
        <Census counts={now.census} />
      </section>
      <section className="intake-right">
        <TroubleNote error={asked.trouble ?? begin.error} />
        {into !== undefined && (
          <Otherwise
            study={into}
            file={start.dataset.id}
            open={open > 0}
            onBring={() =>
              void navigate(`/studies/${into}/new-rows?file=${start.dataset.id}`, {
                state: { read: now.how },
              })
            }
          />
        )}
        <Questions
          questions={now.questions}
          busy={asked.busy}
          lit={speaksOf?.key}
          onLight={setLit}
          onAnswer={asked.answer}
          onAgain={asked.again}
        />
        <h2>What Zembra understood</h2>
        <PlainlyTold questions={now.questions} busy={asked.busy} onAnswer={asked.answer} />
        {now.notices.map((notice) => (
          <p key={notice.text} className="notice">
            {notice.text}{" "}
            {notice.action && (
              <button
                type="button"
                className="link"
                onClick={() => asked.changeTable({ ...now.how.table, ...notice.change }, true)}
              >
                {notice.action}
              </button>
            )}
          </p>
        ))}
        {now.sentences.map((sentence) => (
          <article key={sentence.name} className="entry" data-entry={sentence.name}>
            <Sentence
              parts={sentence.parts}
              params={sentence.params}
              words={catalogue?.intake[sentence.name.replace(/\.\d+$/, "")] ?? []}
              options={{ ...catalogue?.options, ...now.options }}
              onPreview={(params) => asked.changeSentence(sentence.name, params, false)}
              onCommit={(params) => asked.changeSentence(sentence.name, params, true)}
            />
            {sentence.name.startsWith("keep.") && (
              <button
                type="button"
                className="quiet more"
                aria-label="Remove this condition"
                title="Remove this condition"
                onClick={() => asked.removeCondition(Number(sentence.name.slice(5)))}
              >
                ×
              </button>
            )}
          </article>
        ))}
        <button type="button" className="add" onClick={asked.addCondition}>
          + keep only some rows
        </button>
        <h2>How the line begins</h2>
        <AsOf
          day={now.as_of}
          onPreview={(day) => asked.changeAsOf(day, false)}
          onCommit={(day) => asked.changeAsOf(day, true)}
        />
        {now.entries.map((entry) => (
          <article key={entry.id} className="entry" data-entry={entry.kind}>
            <Sentence
              parts={entry.parts}
              params={entry.params}
              words={catalogue?.entries.find((kind) => kind.kind === entry.kind)?.words ?? []}
              options={{ ...catalogue?.options, ...now.options }}
              onPreview={(params) => asked.changeEntry(entry.id, params, false)}
              onCommit={(params) => asked.changeEntry(entry.id, params, true)}
            />
            {entry.problem && (
              <p className="entry-problem">
                {entry.problem.what} {entry.problem.todo}
              </p>
            )}
            {entry.offers.map((offer) => (
              <p key={offer.why} className="offer">
                {offer.why} The bench offers what can be done.
              </p>
            ))}
          </article>
        ))}
        <div className="begin">
          <label>
            Name of the study
            <Input
              value={name}
              onChange={(event) => setName(event.target.value)}
              onPressEnter={() => open === 0 && begin.mutate()}
            />
          </label>
          <div className="begin-row">
            <Button
              type="primary"
              size="large"
              disabled={open > 0}
              loading={begin.isPending}
              onClick={() => begin.mutate()}
            >
              Begin the study
            </Button>
            <KeepWay understanding={now} name={name} />
            <span className="muted" role="status">
              {open > 0 ? (
                <button type="button" className="link" onClick={toFirstQuestion}>
                  {stillOpen(now.questions)}
                </button>
              ) : (
                stillOpen(now.questions)
              )}
            </span>
          </div>
        </div>
      </section>
    </main>
  );
}
