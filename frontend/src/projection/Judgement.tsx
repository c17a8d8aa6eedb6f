import { Segmented, Select } from "antd";
import { useState } from "react";
import type { Params, Schemas } from "../api/client";
import { EntryCard } from "../bench/EntryCard";
import { changedWords, onEntry, onWords } from "../bench/edits";
import { useCatalogue } from "../bench/LedgerPane";
import type { BenchHandle } from "../bench/useBench";
import { formatSigned, plural } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";
import { aboutFirst, read, written, type About } from "./about";
import { ByAhead } from "./ByAhead";
import { Candidates, rank, Seasons } from "./Candidates";
import { EverySeries } from "./EverySeries";
import { LeftOver } from "./LeftOver";
import { UnderWay } from "./UnderWay";
import { useEverySeries, useJudged, type JudgingWords } from "./useJudged";
import { WhatItSaid } from "./WhatItSaid";

type Candidate = Schemas["CandidateView"];

interface Props {
  handle: BenchHandle;
  bench: Schemas["BenchView"];
  entries: Schemas["EntryView"][];
  mine: Schemas["EntryView"];
  onChooseEntry: (id: string) => void;
}

/** Whether the nearest candidate is one to change to: a lead that chance may have made is none. */
function nearestTold(ranked: Candidate[]): string {
  const nearest = ranked[0];
  if (!nearest?.lead || nearest.own) return "";
  const stays = nearest.leads ? "." : ": no reason to change.";
  return `${nearest.name} is ${nearest.lead}${stays}`;
}

/** What the sign of the bias of the chosen candidate means. */
function biasTold(candidate: Candidate | undefined): string {
  if (!candidate || candidate.bias === null) return "";
  if (candidate.bias === 0) return "A bias of 0: what happened was neither above nor below it, on average.";
  const way = candidate.bias > 0 ? "above" : "below";
  return `A bias of ${formatSigned(candidate.bias)}: what happened was ${way} what it said, on average.`;
}

/** A projection with what is judged of it at the left, and what that showed at the right. */
export function Judgement({ handle, bench, entries, mine, onChooseEntry }: Props) {
  const { data: catalogue } = useCatalogue();
  const [words, setWords] = useState<JudgingWords>({});
  const [about, setAbout] = useState<About>(() => aboutFirst(mine, bench.options.lines));
  const [chosen, setChosen] = useState("own");
  const [beside, setBeside] = useState<string>();
  const [start, setStart] = useState<number>();
  const asked = { study: bench.study.id, revision: bench.study.revision, entry: mine.id, about, words };
  const single = useJudged(asked);
  const every = useEverySeries(asked);
  const query = about === "every" ? every : single;
  const judged = about === "every" ? undefined : single.data?.known;
  const sentence = query.data?.known;
  const ranked = judged ? rank(judged.candidates) : [];
  const current = ranked.find((each) => each.key === chosen) ?? ranked.find((each) => each.own) ?? ranked[0];
  const other = judged?.candidates.find((each) => each.key === beside && each.key !== current?.key);
  const at = Math.min(start ?? Infinity, (judged?.starts.length ?? 1) - 1);
  const names = judged?.names ?? every.data?.known.rows.map((row) => row.series) ?? [];
  const take = (candidate: Candidate | undefined) => {
    if (!candidate || Object.keys(candidate.params).length === 0) return;
    void handle.commit(
      onWords(mine.id, candidate.params as Params, mine.params),
      `Projection: ${candidate.name}`,
    );
    setChosen("own");
  };
  // methods and seasons are walked alike
  const walk = { current: current?.key, beside, onCurrent: setChosen, onBeside: setBeside, onTake: take };
  const kinds = catalogue?.entries.find((kind) => kind.kind === "projection");
  return (
    <>
      <aside className="judging-left" aria-label="The projection and its candidates">
        <h2>The projection</h2>
        {entries.length > 1 && (
          <Segmented
            size="small"
            options={entries.map((each, n) => ({ value: each.id, label: `Projection ${n + 1}` }))}
            value={mine.id}
            onChange={(id) => onChooseEntry(String(id))}
          />
        )}
        <EntryCard
          entry={{ ...mine, offers: [] }}
          words={kinds?.words ?? []}
          options={{ ...catalogue?.options, ...bench.options }}
          usual={bench.usual}
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
          onAsked={handle.lookAgain}
        />
        {sentence && (
          <div className="judging-words" data-entry="judging">
            <Sentence
              parts={sentence.parts}
              params={sentence.judging}
              words={catalogue?.judging ?? []}
              options={{}}
              onPreview={() => undefined}
              // the words shown may be older than those wanted: only what was changed is taken
              onCommit={(params) =>
                setWords((wanted) => ({ ...wanted, ...changedWords(sentence.judging, params) }))
              }
            />
            {names.length > 1 && (
              <Select
                size="small"
                showSearch
                aria-label="Series that is judged"
                value={written(judged?.series ? { series: judged.series } : about)}
                options={[
                  { value: "every", label: "every series at a glance" },
                  { value: "together", label: "their sum" },
                  ...names.map((name) => ({ value: written({ series: name }), label: name })),
                ]}
                onChange={(value) => setAbout(read(value))}
              />
            )}
          </div>
        )}
        <TroubleNote error={query.error} />
        {query.data?.work && <UnderWay work={query.data.work} onAgain={() => void query.refetch()} />}
        {judged && judged.candidates.length > 0 && (
          <>
            <h2>Candidates on the same held-back {judged.periods}</h2>
            <Candidates
              rows={ranked.filter((each) => !each.key.startsWith("season"))}
              levels={judged.levels}
              {...walk}
            />
            <p className="muted small">
              {current && !current.done
                ? `${current.name} is being judged.`
                : `${plural(current?.points ?? 0, `held-back ${judged.period}`, `held-back ${judged.periods}`)}.`}{" "}
              1.00 is as good as the usual step of a season. {biasTold(current)} {nearestTold(ranked)} Arrow
              keys walk the rows; the charts follow; Enter takes one, Space lays it beside.
            </p>
            <h2>Seasons worth trying</h2>
            <Seasons judged={judged} {...walk} />
            <p className="muted small">
              Looked for in what came before the first starting point. Strength is how much a decomposition
              takes off, which it finds in chance too; the error with it says whether it helps. Space lays one
              season over another.
            </p>
          </>
        )}
      </aside>
      <section className="judging-right">
        {about === "every" && every.data && (
          <EverySeries every={every.data.known} onOpen={(series) => setAbout({ series })} />
        )}
        {judged && !judged.starts.length && (
          <p className="judging-wait">
            Each candidate is fitted anew at each starting point, on what had come in by then: no outlier rule
            and no average has looked ahead. What it would have said appears here.
          </p>
        )}
        {judged && current && judged.starts.length > 0 && (
          <>
            <WhatItSaid judged={judged} candidate={current} beside={other} start={at} onStart={setStart} />
            {current.done && (
              <>
                <ByAhead judged={judged} candidate={current} beside={other} />
                <LeftOver judged={judged} candidate={current} />
              </>
            )}
          </>
        )}
      </section>
    </>
  );
}
