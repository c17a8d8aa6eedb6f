import { Dropdown } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useKey } from "../app/keys";
import { api, dataOf, type Bench, type Entry, type Record_, type Schemas } from "../api/client";
import { AddEntry } from "./AddEntry";
import { EntryCard } from "./EntryCard";
import { isTaken } from "./taking";
import { added, changedWords, newEntry, onEntry, onWords, removed, swapped, type Change } from "./edits";
import type { BenchHandle } from "./useBench";

const GROUPS: { groups: string[]; title: string; adds: string | undefined }[] = [
  { groups: ["source", "calendar"], title: "Where the line comes from", adds: "calendar" },
  { groups: ["repairs"], title: "Repairs", adds: "repairs" },
  { groups: ["readings"], title: "Readings", adds: "readings" },
  { groups: ["projections"], title: "Projection", adds: "projections" },
];
/** Adding, from every group at once. */
const ALL = "all";
const EMPTY: Record<string, string> = {
  repairs: "Nothing repaired: the line is as it came.",
  readings: "No average, band or trend yet.",
  projections: "Nothing projected.",
};

export function useCatalogue() {
  return useQuery({
    queryKey: ["catalogue"],
    queryFn: () => dataOf<Schemas["Catalogue"]>(api.GET("/api/catalogue")),
  });
}

interface Props {
  handle: BenchHandle;
  bench: Bench;
  selected: string | undefined;
  onSelect: (id: string | undefined) => void;
  onOffer: (offer: Schemas["OfferView"], entry: string) => void;
}

export function LedgerPane({ handle, bench, selected, onSelect, onOffer }: Props) {
  const { data: catalogue } = useCatalogue();
  const [adding, setAdding] = useState<string>();
  const [fresh, setFresh] = useState<string>();
  const order = useQuery({
    queryKey: ["order", bench.study.id, bench.study.revision],
    queryFn: () =>
      dataOf<Schemas["OrderView"]>(
        api.GET("/api/studies/{study_id}/order", { params: { path: { study_id: bench.study.id } } }),
      ),
  });
  const kinds = catalogue?.entries ?? [];
  useKey("a", () => setAdding(ALL));

  const commit = (change: Change, what: string) => void handle.commit(change, what);
  const add = async (kind: string, title: string) => {
    setAdding(undefined);
    const body = { kind, ledger: handle.kept?.ledger ?? bench.ledger };
    const path = { study_id: bench.study.id };
    const { record } = await dataOf<Schemas["Suggestion"]>(
      api.POST("/api/studies/{study_id}/suggestion", { params: { path }, body }),
    );
    onSelect(record.id);
    setFresh(record.id);
    commit(added(record), `Added: ${title}`);
  };
  const records = bench.ledger.entries ?? [];
  // what an entry says when nothing is being previewed
  const keptWords = (entry: Entry) =>
    handle.kept?.entries.find((kept) => kept.id === entry.id)?.params ?? entry.params;
  const groupOf = (record: Record_) => kinds.find((kind) => kind.kind === record.kind)?.group;
  const move = (id: string, by: -1 | 1) => {
    const at = records.findIndex((record) => record.id === id);
    const other = records[at + by];
    const mine = records[at];
    if (!mine || !other || groupOf(mine) !== groupOf(other)) return;
    commit(swapped(id, other.id), "Entry moved");
  };

  const addable = (group: string | undefined) => kinds.filter((kind) => kind.group === group && !kind.once);
  return (
    <aside className="ledger" aria-label="Ledger">
      {adding === ALL && (
        <AddEntry
          groups={GROUPS.map(({ title, adds }) => ({ title, kinds: addable(adds) }))}
          onAdd={(kind) => void add(kind.kind, kind.title)}
          onClose={() => setAdding(undefined)}
        />
      )}
      {GROUPS.map(({ groups, title, adds }) => {
        const entries = bench.entries.filter((entry) => groups.includes(entry.group));
        const choices = addable(adds);
        return (
          <section key={title}>
            <div className="ledger-head">
              <h2>{title}</h2>
              {adds && (
                <Dropdown
                  trigger={["click"]}
                  autoFocus
                  open={adding === adds}
                  onOpenChange={(open) => setAdding(open ? adds : undefined)}
                  menu={{
                    items: choices.map((kind) => ({
                      key: kind.kind,
                      label: (
                        <div className="kind">
                          <strong>{kind.title}</strong>
                          <small>{kind.hint}</small>
                        </div>
                      ),
                      onClick: () => void add(kind.kind, kind.title),
                    })),
                  }}
                >
                  <button type="button" className="add" aria-label={`Add to ${title}`}>
                    + add
                  </button>
                </Dropdown>
              )}
            </div>
            {entries.length === 0 && adds && EMPTY[adds] && <p className="nothing">{EMPTY[adds]}</p>}
            {entries.map((entry) => (
              <EntryCard
                key={entry.id}
                entry={{
                  ...entry,
                  offers: entry.offers.filter((offer) => offer.change || !isTaken(bench.ledger, offer)),
                }}
                words={kinds.find((kind) => kind.kind === entry.kind)?.words ?? []}
                options={{ ...catalogue?.options, ...bench.options }}
                usual={bench.usual}
                readings={bench.readings.filter((reading) => reading.value !== entry.id)}
                once={kinds.find((kind) => kind.kind === entry.kind)?.once ?? false}
                selected={entry.id === selected}
                fresh={entry.id === fresh}
                onSelect={() => onSelect(entry.id)}
                onAsked={handle.lookAgain}
                onOffer={(offer) => onOffer(offer, entry.id)}
                orderMatters={order.data?.matters.includes(entry.id) ?? false}
                onPreview={(params) =>
                  handle.preview(
                    params &&
                      onWords(
                        entry.id,
                        params,
                      )({
                        ledger: (handle.kept ?? bench).ledger,
                        settings: bench.settings,
                      }),
                    entry.id,
                  )
                }
                onCommit={(params, what) =>
                  commit(
                    onWords(entry.id, changedWords(keptWords(entry), params), keptWords(entry)),
                    `${entry.title}: ${what}`,
                  )
                }
                onToggle={() =>
                  commit(
                    onEntry(entry.id, (record) => ({ ...record, on: !entry.on })),
                    `${entry.title} switched ${entry.on ? "off" : "on"}`,
                  )
                }
                onMove={(by) => move(entry.id, by)}
                onCopy={() => {
                  const mine = records.find((record) => record.id === entry.id);
                  if (mine)
                    commit(added(newEntry(mine.kind, mine.params ?? {}), mine.id), `${entry.title} copied`);
                }}
                onRemove={() => commit(removed(entry.id), `${entry.title} removed`)}
              />
            ))}
          </section>
        );
      })}
    </aside>
  );
}
