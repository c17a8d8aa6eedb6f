import "../bench/bench.css";
import "./projection.css";
import { Button, Segmented, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState, type KeyboardEvent } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, told, type Params, type Schemas } from "../api/client";
import { useKey } from "../app/keys";
import { TopBar } from "../app/TopBar";
import { EntryCard } from "../bench/EntryCard";
import { changedWords, onEntry, onWords } from "../bench/edits";
import { useCatalogue } from "../bench/LedgerPane";
import { useBench, type BenchHandle } from "../bench/useBench";
import { Waiting } from "../bench/Waiting";
import { ViewSwitch } from "../bench/ViewSwitch";
import { formatNumber, formatSigned, plural } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { ByAhead } from "./ByAhead";
import { LeftOver } from "./LeftOver";
import { WhatItSaid } from "./WhatItSaid";

type Judged = Schemas["JudgedView"];
type Candidate = Schemas["CandidateView"];
type Words = Partial<Record<"ahead" | "starts" | "apart", number>>;

const LOOKED = 900; // milliseconds between two looks at work under way

/** Judging a projection: candidates on held-back periods, and whether anything is left to learn. */
export function ProjectionPage() {
  const { studyId } = useParams();
  return <ProjectionOf key={studyId} id={Number(studyId)} />;
}

function ProjectionOf({ id }: { id: number }) {
  const handle = useBench(id);
  const { kept } = handle;
  const navigate = useNavigate();
  const [words, setWords] = useState<Words>({});
  const [entry, setEntry] = useState<string>();
  const [series, setSeries] = useState<string>();
  const projections = kept?.entries.filter((one) => one.kind === "projection" && one.on) ?? [];
  const mine = projections.find((one) => one.id === entry) ?? projections[0];
  const revision = kept?.study.revision;
  const query = useQuery({
    queryKey: ["judging", id, revision, mine?.id, series, words],
    enabled: Boolean(mine),
    retry: false,
    queryFn: () =>
      told<Judged>(
        api.GET("/api/studies/{study_id}/judging", {
          params: {
            path: { study_id: id },
            query: { entry: mine?.id ?? "", series: series ?? "", ...words },
          },
        }),
      ),
    refetchInterval: ({ state }) => (underWay(state.data) ? LOOKED : false),
  });
  useKey("mod+z", () => void handle.undo(), [handle]);
  useKey("mod+shift+z,mod+y", () => void handle.redo(), [handle]);
  useKey("g>b", () => void navigate(`/studies/${id}`));
  if (!kept) return <Waiting error={handle.error} />;
  return (
    <div className="page full judging">
      <TopBar
        actions={
          <>
            <ViewSwitch id={id} at="projection" />
            <Button disabled={!kept.study.can_undo} onClick={() => void handle.undo()}>
              Undo
            </Button>
            <Button disabled={!kept.study.can_redo} onClick={() => void handle.redo()}>
              Redo
            </Button>
          </>
        }
      >
        <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
        <h1 className="study-name">{kept.study.name}</h1>
        <span className="kept" role="status">
          {handle.saving ? "keeping…" : `kept · revision ${kept.study.revision}`}
        </span>
      </TopBar>
      <TroubleNote error={handle.trouble} onClose={handle.dropTrouble} />
      {!mine ? (
        <main className="empty">
          <h2>Nothing is projected yet</h2>
          <p>
            Add a projection to the ledger on the bench; here it is judged on periods that were held back.
          </p>
          <Button type="primary" onClick={() => void navigate(`/studies/${id}`)}>
            To the bench
          </Button>
        </main>
      ) : (
        <main className="judging-body">
          <Judgement
            handle={handle}
            entries={projections}
            mine={mine}
            onChooseEntry={setEntry}
            onSeries={setSeries}
            words={words}
            onJudging={setWords}
            judged={query.data}
            error={query.error}
            onAgain={() => void query.refetch()}
          />
        </main>
      )}
    </div>
  );
}

function underWay(judged: Judged | undefined): boolean {
  return Boolean(judged?.work && ["waiting", "working"].includes(judged.work.stage));
}

interface Props {
  handle: BenchHandle;
  entries: Schemas["EntryView"][];
  mine: Schemas["EntryView"];
  onChooseEntry: (id: string) => void;
  onSeries: (name: string) => void;
  words: Words;
  onJudging: (words: Words) => void;
  judged: Judged | undefined;
  error: unknown;
  onAgain: () => void;
}

function Judgement({
  handle,
  entries,
  mine,
  onChooseEntry,
  onSeries,
  words,
  onJudging,
  judged,
  error,
  onAgain,
}: Props) {
  const { data: catalogue } = useCatalogue();
  const { kept } = handle;
  const [chosen, setChosen] = useState("own");
  const [beside, setBeside] = useState<string>();
  const [start, setStart] = useState<number>();
  if (!kept) return null;
  const ranked = judged ? rank(judged.candidates) : [];
  const current = ranked.find((one) => one.key === chosen) ?? ranked.find((one) => one.own) ?? ranked[0];
  const other = judged?.candidates.find((one) => one.key === beside && one.key !== current?.key);
  const at = Math.min(start ?? Infinity, (judged?.starts.length ?? 1) - 1);
  const take = (one: Candidate | undefined) => {
    if (!one || one.own) return;
    void handle.commit(onWords(mine.id, one.params as Params, mine.params), `Projection: ${one.name}`);
    setChosen("own");
  };
  const kinds = catalogue?.entries.find((kind) => kind.kind === "projection");
  return (
    <>
      <aside className="judging-left" aria-label="The projection and its candidates">
        <h2>The projection</h2>
        {entries.length > 1 && (
          <Segmented
            size="small"
            options={entries.map((one, n) => ({ value: one.id, label: `Projection ${n + 1}` }))}
            value={mine.id}
            onChange={(id) => onChooseEntry(String(id))}
          />
        )}
        <EntryCard
          entry={{ ...mine, offers: [] }}
          words={kinds?.words ?? []}
          options={{ ...catalogue?.options, ...kept.options }}
          usual={kept.usual}
          readings={[]}
          once={false}
          selected={false}
          fresh={false}
          orderMatters={false}
          onSelect={() => undefined}
          onOffer={() => undefined}
          onPreview={() => undefined}
          onCommit={(params, what) =>
            void handle.commit(
              onWords(mine.id, changedWords(mine.params, params), mine.params),
              `Projection: ${what}`,
            )
          }
          onToggle={() =>
            void handle.commit(
              onEntry(mine.id, (record) => ({ ...record, on: !mine.on })),
              "Projection switched",
            )
          }
          onMove={() => undefined}
          onCopy={() => undefined}
          onRemove={() => undefined}
        />
        {judged && (
          <div className="judging-words" data-entry="judging">
            <Sentence
              parts={judged.parts}
              params={judged.judging}
              words={catalogue?.judging ?? []}
              options={{}}
              onPreview={() => undefined}
              onCommit={(params) => onJudging({ ...words, ...(params as Words) })}
            />
            {judged.names.length > 1 && (
              <Select
                size="small"
                aria-label="Series that is judged"
                value={judged.series}
                options={judged.names.map((name) => ({ value: name, label: name }))}
                onChange={onSeries}
              />
            )}
          </div>
        )}
        <TroubleNote error={error} />
        {judged?.work && <UnderWay work={judged.work} onAgain={onAgain} />}
        {judged && judged.candidates.length > 0 && (
          <>
            <h2>Candidates on the same held-back {judged.periods}</h2>
            <Candidates
              rows={ranked.filter((one) => !one.key.startsWith("season"))}
              levels={judged.levels}
              current={current?.key}
              beside={beside}
              onCurrent={setChosen}
              onBeside={setBeside}
              onTake={take}
            />
            <p className="muted small">
              {plural(current?.points ?? 0, `held-back ${judged.period}`, `held-back ${judged.periods}`)}.
              1.00 is as good as the usual step of a season. Arrow keys walk the rows; the charts follow;
              Enter takes one, Space lays it beside.
            </p>
            <h2>Seasons worth trying</h2>
            <Seasons judged={judged} current={current?.key} onCurrent={setChosen} onTake={take} />
          </>
        )}
      </aside>
      <section className="judging-right">
        {judged && !judged.starts.length && (
          <p className="judging-wait">
            Each candidate is fitted anew at each starting point, on what had come in by then: no outlier rule
            and no average has looked ahead. What it would have said appears here.
          </p>
        )}
        {judged && current && judged.starts.length > 0 && (
          <>
            <WhatItSaid judged={judged} candidate={current} beside={other} start={at} onStart={setStart} />
            <ByAhead judged={judged} candidate={current} beside={other} />
            <LeftOver judged={judged} candidate={current} />
          </>
        )}
      </section>
    </>
  );
}

function UnderWay({ work, onAgain }: { work: Schemas["WorkView"]; onAgain: () => void }) {
  const params = { path: { key: work.key } };
  const stopped = work.stage === "stopped";
  return (
    <div className="judging-work" role="status">
      <progress value={work.share} max={1} aria-label="How far judging is" />
      <span className="muted">
        {stopped
          ? "stopped"
          : `${work.told}, ${formatNumber(100 * work.share, 0)} %; each is fitted anew at each starting point`}
      </span>
      <button
        type="button"
        className="link"
        onClick={() =>
          void told(
            stopped ? api.POST("/api/work/{key}", { params }) : api.DELETE("/api/work/{key}", { params }),
          ).then(onAgain)
        }
      >
        {stopped ? "judge all the same" : "stop"}
      </button>
    </div>
  );
}

/** Best first; those without a score at the end. */
function rank(candidates: Candidate[]): Candidate[] {
  return [...candidates].sort((a, b) => (a.mase ?? a.mae ?? Infinity) - (b.mase ?? b.mae ?? Infinity));
}

interface CandidatesProps {
  rows: Candidate[];
  levels: number[];
  current: string | undefined;
  beside: string | undefined;
  onCurrent: (key: string) => void;
  onBeside: (key: string | undefined) => void;
  onTake: (one: Candidate | undefined) => void;
}

function Candidates({ rows, levels, current, beside, onCurrent, onBeside, onTake }: CandidatesProps) {
  const onKeyDown = (one: Candidate) => (event: KeyboardEvent<HTMLTableRowElement>) => {
    const row = event.currentTarget;
    if (event.key === "ArrowDown") (row.nextElementSibling as HTMLElement | null)?.focus();
    else if (event.key === "ArrowUp") (row.previousElementSibling as HTMLElement | null)?.focus();
    else if (event.key === "Enter") onTake(one);
    else if (event.key === " ") onBeside(beside === one.key ? undefined : one.key);
    else return;
    event.preventDefault();
  };
  return (
    <table className="candidates">
      <thead>
        <tr>
          <th>method</th>
          <th className="number">scaled error</th>
          <th className="number">error %</th>
          <th className="number">bias</th>
          {levels.map((level) => (
            <th key={level} className="number">
              in {formatNumber(level)} %
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((one) => (
          <tr
            key={one.key}
            tabIndex={0}
            className={one.key === current ? "at" : one.key === beside ? "beside" : undefined}
            aria-label={`${one.name}, scaled error ${formatNumber(one.mase)}. Enter takes it, Space lays it beside.`}
            onFocus={() => onCurrent(one.key)}
            onClick={() => onCurrent(one.key)}
            onDoubleClick={() => onTake(one)}
            onKeyDown={onKeyDown(one)}
          >
            <td>
              {one.name}
              {one.key === current && !one.own && (
                <button type="button" className="link" onClick={() => onTake(one)}>
                  take it
                </button>
              )}
              {one.refused && (
                <em title={one.refused}>{one.mase === null ? one.refused : "refused at some"}</em>
              )}
            </td>
            <td className="number">{one.mase === null ? "—" : formatNumber(one.mase, 2)}</td>
            <td className="number">{one.wape === null ? "—" : formatNumber(one.wape, 1)}</td>
            <td className="number">{one.bias === null ? "—" : formatSigned(one.bias)}</td>
            {levels.map((level, n) => {
              const share = one.levels[n];
              const short = share !== undefined && share.inside < share.low;
              return (
                <td
                  key={level}
                  className={short ? "number attention" : "number"}
                  title={
                    share
                      ? `${share.inside} of ${one.points}; plain chance gives ${share.low} to ${share.high}; interval score ${formatNumber(share.score)}`
                      : undefined
                  }
                >
                  {share ? formatNumber(share.share, 0) : "—"}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface SeasonsProps {
  judged: Judged;
  current: string | undefined;
  onCurrent: (key: string) => void;
  onTake: (one: Candidate | undefined) => void;
}

function Seasons({ judged, current, onCurrent, onTake }: SeasonsProps) {
  return (
    <table className="candidates">
      <thead>
        <tr>
          <th>length</th>
          <th className="number">strength</th>
          <th className="number">full cycles</th>
          <th className="number">scaled error with it</th>
        </tr>
      </thead>
      <tbody>
        {judged.seasons.map((one) => {
          const candidate = judged.candidates.find((each) => each.key === one.candidate);
          return (
            <tr
              key={one.name}
              tabIndex={candidate ? 0 : -1}
              className={candidate && candidate.key === current ? "at" : undefined}
              onFocus={() => candidate && onCurrent(candidate.key)}
              onClick={() => candidate && onCurrent(candidate.key)}
              onKeyDown={(event) => event.key === "Enter" && onTake(candidate)}
            >
              <td>
                {one.name}
                {candidate && candidate.key === current && (
                  <button type="button" className="link" onClick={() => onTake(candidate)}>
                    take it
                  </button>
                )}
              </td>
              <td
                className="number"
                title={
                  one.chance === null
                    ? undefined
                    : `the chance of it without a season: ${formatNumber(one.chance)}`
                }
              >
                {one.strength === null ? "—" : formatNumber(one.strength, 2)}
              </td>
              <td className="number">
                {one.cycles === null ? "—" : formatNumber(one.cycles)}
                {one.length !== null && !candidate && <em className="attention"> too short</em>}
              </td>
              <td className="number">{candidate?.mase ? formatNumber(candidate.mase, 2) : "—"}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
