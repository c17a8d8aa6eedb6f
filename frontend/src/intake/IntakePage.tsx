import { Button, Input } from "antd";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import {
  api,
  told,
  troubleOf,
  type Ledger,
  type Params,
  type Schemas,
  type Understanding,
} from "../api/client";
import { TopBar } from "../app/TopBar";
import { useCatalogue } from "../bench/LedgerPane";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { Census } from "./Census";
import { DropZone } from "./DropZone";
import { RawRows } from "./RawRows";

type How = Schemas["HowRead"];

/** From a file to a study: the rows as they came, what Zembra understood, and what is in them. */
export function IntakePage() {
  const { datasetId } = useParams();
  const [received, setReceived] = useState<Understanding>();
  const navigate = useNavigate();
  const bring = useMutation({
    mutationFn: (source: File | string) => (typeof source === "string" ? bringDemo(source) : upload(source)),
    onSuccess: (answer) => {
      setReceived(answer);
      void navigate(`/intake/${answer.dataset.id}`);
    },
  });
  const known = useQuery({
    queryKey: ["understanding", datasetId],
    enabled: Boolean(datasetId) && received?.dataset.id !== Number(datasetId),
    queryFn: () => understand(Number(datasetId), undefined, undefined),
  });
  const start = received && received.dataset.id === Number(datasetId) ? received : known.data;
  return (
    <div className={datasetId ? "page bench" : "page"}>
      <TopBar>
        <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
        <h1 className="study-name">{datasetId && start ? `Intake of ${start.dataset.name}` : "Intake"}</h1>
      </TopBar>
      {datasetId ? (
        start ? (
          <Reading key={start.dataset.id} start={start} />
        ) : (
          <main className="empty">
            {known.error ? <TroubleNote error={known.error} /> : <p>Reading the file…</p>}
          </main>
        )
      ) : (
        <DropZone busy={bring.isPending} error={bring.error} onFile={bring.mutate} />
      )}
    </div>
  );
}

async function upload(file: File): Promise<Understanding> {
  const form = new FormData();
  form.append("file", file);
  const answer = await fetch("/api/datasets", { method: "POST", body: form });
  const body: unknown = await answer.json().catch(() => undefined);
  if (!answer.ok) throw troubleOf(body, answer.status);
  return body as Understanding;
}

function bringDemo(name: string): Promise<Understanding> {
  return told<Understanding>(api.POST("/api/demo-files/{name}", { params: { path: { name } } }));
}

function understand(id: number, how: How | undefined, ledger: Ledger | undefined): Promise<Understanding> {
  const body = { how: how ?? null, ledger: ledger ?? null };
  return told<Understanding>(
    api.POST("/api/datasets/{dataset_id}/understanding", { params: { path: { dataset_id: id } }, body }),
  );
}

function Reading({ start }: { start: Understanding }) {
  const [now, setNow] = useState(start);
  const [trouble, setTrouble] = useState<unknown>();
  const [name, setName] = useState(() => start.dataset.name.replace(/\.[a-z0-9]+$/i, ""));
  const { data: catalogue } = useCatalogue();
  const navigate = useNavigate();
  const asked = useRef(0);
  const kept = useRef(start);

  const ask = async (how: How, ledger: Ledger | undefined, keep: boolean) => {
    const mine = ++asked.current;
    try {
      const answer = await understand(start.dataset.id, how, ledger);
      if (mine !== asked.current) return;
      if (keep) kept.current = answer;
      setNow(answer);
      setTrouble(undefined);
    } catch (error) {
      if (mine === asked.current) setTrouble(error);
    }
  };
  const back = () => {
    asked.current++;
    setNow(kept.current);
    setTrouble(undefined);
  };
  const changeHow = (part: string, params: Params | undefined, keep: boolean) => {
    if (!params) return back();
    // other columns or dates make another calendar: the first two entries are suggested anew
    const reshapes =
      part !== "values" || JSON.stringify(params.columns) !== JSON.stringify(kept.current.how.values.columns);
    void ask(
      { ...kept.current.how, [part]: params } as How,
      reshapes ? undefined : kept.current.ledger,
      keep,
    );
  };
  const changeEntry = (id: string, params: Params | undefined, keep: boolean) => {
    if (!params) return back();
    const entries = (kept.current.ledger.entries ?? []).map((entry) =>
      entry.id === id ? { ...entry, params } : entry,
    );
    void ask(kept.current.how, { ...kept.current.ledger, entries }, keep);
  };
  const begin = useMutation({
    mutationFn: () =>
      told<Schemas["BenchView"]>(
        api.POST("/api/studies", {
          body: { dataset_id: start.dataset.id, name: name.trim() || start.dataset.name, ledger: now.ledger },
        }),
      ),
    onSuccess: (bench) => void navigate(`/studies/${bench.study.id}`),
  });
  useEffect(() => {
    document.title = `${start.dataset.name}, Zembra`;
    return () => void (document.title = "Zembra");
  }, [start.dataset.name]);

  return (
    <main className="intake">
      <section className="intake-left">
        <RawRows rows={now.rows} file={now.dataset} />
        <Census counts={now.census} />
      </section>
      <section className="intake-right">
        <h2>What Zembra understood</h2>
        <TroubleNote error={trouble ?? begin.error} />
        {now.questions.map((question) => (
          <p key={question} className="question">
            {question}
          </p>
        ))}
        {now.sentences.map((sentence) => (
          <article key={sentence.name} className="entry" data-entry={sentence.name}>
            <Sentence
              parts={sentence.parts}
              params={sentence.params}
              words={catalogue?.intake[sentence.name] ?? []}
              options={now.options}
              onPreview={(params) => changeHow(sentence.name, params, false)}
              onCommit={(params) => changeHow(sentence.name, params, true)}
            />
          </article>
        ))}
        <h2>How the line begins</h2>
        {now.entries.map((entry) => (
          <article key={entry.id} className="entry" data-entry={entry.kind}>
            <Sentence
              parts={entry.parts}
              params={entry.params}
              words={catalogue?.entries.find((kind) => kind.kind === entry.kind)?.words ?? []}
              options={now.options}
              onPreview={(params) => changeEntry(entry.id, params, false)}
              onCommit={(params) => changeEntry(entry.id, params, true)}
            />
          </article>
        ))}
        <div className="begin">
          <label>
            Name of the study
            <Input
              value={name}
              onChange={(event) => setName(event.target.value)}
              onPressEnter={() => begin.mutate()}
            />
          </label>
          <Button type="primary" size="large" loading={begin.isPending} onClick={() => begin.mutate()}>
            Begin the study
          </Button>
        </div>
      </section>
    </main>
  );
}
