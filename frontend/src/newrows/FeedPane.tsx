import { Button, Input } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, dataOf, type Params, type Part, type Schemas } from "../api/client";
import { begun, post } from "../api/waiting";
import { useCatalogue } from "../bench/LedgerPane";
import { formatMoment } from "../ui/format";
import { Sentence } from "../ui/Sentence";
import { TroubleNote } from "../ui/Trouble";

type Feed = Schemas["FeedView"];

interface Draft {
  words: Params;
  parts: Part[];
}

/** Where the study looks for new rows by itself, what the last look gave, and looking now. */
export function FeedPane({ id, onFile }: { id: number; onFile: (file: number) => void }) {
  const client = useQueryClient();
  const { data: catalogue } = useCatalogue();
  const path = { study_id: id };
  const [draft, setDraft] = useState<Draft>();
  const [key, setKey] = useState("");
  const [doing, setDoing] = useState<string>();
  const [trouble, setTrouble] = useState<unknown>();
  const query = useQuery({
    queryKey: ["feed", id],
    queryFn: () => dataOf<Feed>(api.GET("/api/studies/{study_id}/feed", { params: { path } })),
    refetchOnMount: "always",
  });
  const feed = query.data;
  if (!feed || !catalogue) return <TroubleNote error={query.error} />;
  const done = (told: Feed) => {
    client.setQueryData(["feed", id], told);
    void client.invalidateQueries({ queryKey: ["studies"] });
    void client.invalidateQueries({ queryKey: ["watch", id] });
  };
  const act = (what: string, call: () => Promise<Feed | undefined>) => {
    setDoing(what);
    setTrouble(undefined);
    call()
      .then((told) => told && done(told))
      .catch((error: unknown) => {
        setTrouble(error);
        void client.invalidateQueries({ queryKey: ["feed", id] });
      })
      .finally(() => setDoing(undefined));
  };
  const said: Draft = draft ?? feed;
  const write = (words: Params) => {
    setTrouble(undefined);
    dataOf<Draft>(
      api.POST("/api/studies/{study_id}/feed/preview", { params: { path }, body: { words, key: null } }),
    )
      .then(setDraft)
      .catch(setTrouble);
  };
  const keep = () =>
    act("connecting", async () => {
      const body = { words: said.words, key: key || null };
      const told = await dataOf<Feed>(api.PUT("/api/studies/{study_id}/feed", { params: { path }, body }));
      setDraft(undefined);
      setKey("");
      return told;
    });
  const source = said.words.source as { kind?: string };
  return (
    <section aria-label="Where new rows come from" className="feed-pane">
      <h2>Where new rows come from</h2>
      {feed.connected || draft ? (
        <div className="came-words" data-entry="feed">
          <Sentence
            parts={said.parts}
            params={said.words}
            words={catalogue.feed}
            options={{}}
            onPreview={() => undefined}
            onCommit={write}
            whole
          />
          {draft && (
            <div className="feed-keep">
              {source.kind !== "folder" && (
                <Input.Password
                  size="small"
                  value={key}
                  placeholder={feed.keyed ? "the key that was given" : "a key, if it asks for one"}
                  aria-label="Key of the feed"
                  autoComplete="off"
                  onChange={(event) => setKey(event.target.value)}
                />
              )}
              <Button size="small" type="primary" loading={doing === "connecting"} onClick={keep}>
                {feed.connected ? "Keep it so" : "Connect"}
              </Button>
              <Button size="small" onClick={() => setDraft(undefined)}>
                Leave it
              </Button>
            </div>
          )}
          {feed.connected && !draft && (
            <p className="muted small">
              {feed.keyed ? "Its key is kept apart, out of exports and backups. " : ""}
              {feed.looked_at ? `Looked at ${formatMoment(feed.looked_at)}. ` : "Not looked at yet. "}
              {feed.due_at ? `Next at ${formatMoment(feed.due_at)}, while Zembra runs.` : ""}
            </p>
          )}
        </div>
      ) : (
        <p className="muted">
          Files are brought in by hand. A service, a folder or a database can be looked at instead, as often
          as you like: what comes is shown here and waits for a decision.{" "}
          <button type="button" className="link" onClick={() => setDraft(feed)}>
            Look somewhere
          </button>
        </p>
      )}
      {feed.connected && !draft && (
        <>
          {feed.trouble ? (
            <p className="attention" role="status">
              {feed.trouble} Nothing was taken in.
            </p>
          ) : (
            feed.said && (
              <p role="status" className={feed.file === null ? undefined : "attention"}>
                {feed.said}
              </p>
            )
          )}
          <div className="feed-keep">
            {feed.file !== null && (
              <Button size="small" type="primary" onClick={() => feed.file !== null && onFile(feed.file)}>
                See what came
              </Button>
            )}
            {feed.file !== null && (
              <Button
                size="small"
                onClick={() =>
                  act("leaving", () =>
                    dataOf<Feed>(api.POST("/api/studies/{study_id}/feed/leave", { params: { path } })),
                  )
                }
              >
                Leave it as it was
              </Button>
            )}
            <Button
              size="small"
              loading={doing === "looking"}
              onClick={() => act("looking", () => begun<Feed>(() => post(`/api/studies/${id}/feed/look`)))}
            >
              Look now
            </Button>
            <button
              type="button"
              className="link"
              onClick={() =>
                act("disconnecting", () =>
                  dataOf<Feed>(api.DELETE("/api/studies/{study_id}/feed", { params: { path } })),
                )
              }
            >
              look there no more
            </button>
          </div>
        </>
      )}
      <TroubleNote error={trouble} />
    </section>
  );
}
