import { Dropdown } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, dataOf, Trouble, type Params, type Schemas } from "../api/client";
import { useCatalogue } from "../bench/LedgerPane";
import { formatMoment } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";

type View = Schemas["WatchView"];

const AGAIN = 1500; // milliseconds

/** What a study watches. It looks at what it has not seen yet, where who asks may change what is kept. */
async function looked(id: number): Promise<View> {
  const params = { path: { study_id: id } };
  try {
    return await dataOf<View>(api.POST("/api/studies/{study_id}/watch/look", { params }));
  } catch (error) {
    if (!(error instanceof Trouble && error.status === 403)) throw error;
    return dataOf<View>(api.GET("/api/studies/{study_id}/watch", { params }));
  }
}

/** The sentences by which a study watches itself, who is told, and what they found. */
export function WatchPane({ id, series }: { id: number; series: string[] }) {
  const client = useQueryClient();
  const { data: catalogue } = useCatalogue();
  const path = { study_id: id };
  const [trouble, setTrouble] = useState<unknown>();
  const query = useQuery({
    queryKey: ["watch", id],
    queryFn: () => looked(id),
    refetchOnMount: "always",
    refetchInterval: ({ state }) => (state.data?.looking ? AGAIN : false),
  });
  const view = query.data;
  if (!view || !catalogue) return <TroubleNote error={query.error} />;
  const watches = view.watches.map(({ words }) => words);
  const keep = (next: Params[], tell: Params = view.tell.words) => {
    setTrouble(undefined);
    const body = { watches: next, tell };
    dataOf<View>(api.PUT("/api/studies/{study_id}/watch", { params: { path }, body }))
      .then((told) => {
        client.setQueryData(["watch", id], told);
        void client.invalidateQueries({ queryKey: ["studies"] });
        void client.invalidateQueries({ queryKey: ["follow-up", id] });
      })
      .catch(setTrouble);
  };
  const wordsOf = (kind: unknown) =>
    catalogue.watches.find((known) => known.params.kind === kind)?.words ?? [];
  return (
    <section aria-label="What the study watches" className="watch-pane">
      <h2>
        Tell me when
        <Dropdown
          trigger={["click"]}
          menu={{
            items: catalogue.watches.map((known) => ({
              key: known.title,
              label: known.title,
              onClick: () => keep([...watches, known.params]),
            })),
          }}
        >
          <button type="button" className="link add-watch" aria-label="+ add something to watch">
            + add
          </button>
        </Dropdown>
      </h2>
      {view.watches.length === 0 && (
        <p className="muted">
          Nothing is watched yet: a value outside its limits, rows that are late, a level shift, a large
          revision.
        </p>
      )}
      {view.watches.map((watch, at) => (
        <div
          className="came-words watch"
          key={`${at} ${String(watch.words.kind)}`}
          data-entry={`watch-${at}`}
        >
          <Sentence
            parts={watch.parts}
            params={watch.words}
            words={wordsOf(watch.words.kind)}
            options={{ series }}
            onPreview={() => undefined}
            onCommit={(words) => keep(watches.map((known, place) => (place === at ? words : known)))}
            end={
              <button
                type="button"
                className="quiet"
                aria-label="Watch this no more"
                onClick={() => keep(watches.filter((_, place) => place !== at))}
              >
                ×
              </button>
            }
          />
        </div>
      ))}
      {view.watches.length > 0 && (
        <div className="came-words" data-entry="telling">
          <Sentence
            parts={view.tell.parts}
            params={view.tell.words}
            words={catalogue.telling}
            options={{}}
            onPreview={() => undefined}
            onCommit={(words) => keep(watches, words)}
          />
          {view.news && (
            <p className="muted small">
              The feed of news, for a feed reader: <a href={view.news}>{view.news.slice(0, 18)}…</a> Whoever
              knows its address can read it.
            </p>
          )}
        </div>
      )}
      <TroubleNote error={trouble} />
      {view.untold.map((who) => (
        <p key={who} className="attention small">
          Could not be told yet: {who}
        </p>
      ))}
      {view.watches.length > 0 && (
        <>
          <h2>What needs a look</h2>
          {view.looking && <p className="muted">Looking…</p>}
          {view.trouble && <p className="attention">It could not be looked at: {view.trouble}</p>}
          {!view.looking && !view.trouble && view.findings.length === 0 && (
            <p className="muted">Nothing that was watched for.</p>
          )}
          <ul className="calls">
            {view.findings.map((finding) => (
              <li key={finding.id}>
                {finding.text} <span className="muted small">since {formatMoment(finding.found_at)}</span>
              </li>
            ))}
          </ul>
          {view.unsaid.map((sentence) => (
            <p key={sentence} className="muted small">
              {sentence}
            </p>
          ))}
          {view.gone.length > 0 && (
            <details>
              <summary className="muted">{view.gone.length} that hold no longer</summary>
              <ul className="calls muted">
                {view.gone.map((finding) => (
                  <li key={finding.id}>
                    {finding.text} <span className="small">until {formatMoment(finding.gone_at ?? "")}</span>
                  </li>
                ))}
              </ul>
            </details>
          )}
        </>
      )}
    </section>
  );
}
