import "./bench.css";
import "./dock.css";
import { App as AntApp, Button, Input, Segmented } from "antd";
import { useState, type CSSProperties } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, dataOf, type FigureSettings, type Schemas } from "../api/client";
import { useKey } from "../app/keys";
import { TopBar } from "../app/TopBar";
import { useQueryClient } from "@tanstack/react-query";
import { AsOf } from "../ui/AsOf";
import { formatDate } from "../ui/format";
import { Splitter } from "../ui/Splitter";
import { TroubleNote } from "../ui/Trouble";
import { ChartPane } from "./ChartPane";
import { Dock } from "./Dock";
import { HandOver } from "./HandOver";
import { LedgerPane } from "./LedgerPane";
import { LineHandles } from "./LineHandles";
import type { Stretch } from "./ConditionStrip";
import { FigureBar } from "./FigureBar";
import { StretchCard } from "./StretchCard";
import { LIMITS, useRoom } from "./room";
import { newEntry, onSettings, onWords } from "./edits";
import { createPointer, PointerContext } from "./pointer";
import { useFollowUp } from "./useFollowUp";
import { taken } from "./taking";
import { useBench } from "./useBench";
import { Waiting } from "./Waiting";
import { ViewSwitch } from "./ViewSwitch";
import { useFigure, useWindow, WindowPresets } from "./window";

export function BenchPage() {
  const { studyId } = useParams();
  return <BenchOf key={studyId} id={Number(studyId)} />;
}

function BenchOf({ id }: { id: number }) {
  const [selected, setSelected] = useState<string>();
  const handle = useBench(id, selected);
  const { bench } = handle;
  const [tab, setTab] = useState("evidence");
  const [handingOver, setHandingOver] = useState(false);
  const [pointer] = useState(createPointer);
  const [stretch, setStretch] = useState<Stretch>();
  // a thinned preview holds no more than the window: all there is stands in what is kept
  const shown = useWindow(bench?.figure.thinned ? handle.kept?.figure : bench?.figure);
  const figure = useFigure(handle, shown.range);
  const follow = useFollowUp(id, handle.kept?.study.revision ?? 0);
  const navigate = useNavigate();
  const [room, setRoom] = useRoom(id);
  const openTab = (wanted: string) => {
    setTab(wanted);
    setRoom({ closed: false });
  };

  const setSettings = (change: Partial<FigureSettings>, what: string) => {
    void handle.commit(onSettings(change), what);
  };
  const view = (name: FigureSettings["view"]) =>
    setSettings({ view: name ?? "after" }, `Shown ${name ?? "after"}`);

  const take = (offer: Schemas["OfferView"], by?: string) => {
    if (!bench) return;
    const { change, id: entry } = taken(bench.ledger, offer, newEntry(offer.kind, offer.params), by);
    setStretch(undefined);
    setSelected(entry);
    void handle.commit(change, `Taken: ${offer.action}`);
  };
  const leaveOut = (drawn: string[]) => {
    void handle.commit(onWords("source", { series: drawn }), "Series not drawn left out of the study");
  };

  useKey("mod+z", () => void handle.undo(), [handle]);
  useKey("mod+shift+z,mod+y", () => void handle.redo(), [handle]);
  useKey("b", () => view("before"), [bench]);
  useKey("n", () => view("both"), [bench]);
  useKey("m", () => view("after"), [bench]);
  useKey("e", () => openTab("evidence"));
  useKey("v", () => openTab("values"));
  useKey("t", () => openTab("note"));
  useKey("f", () => openTab("follow-up"));
  useKey("h", () => setHandingOver(true));
  useKey("g>s", () => void navigate("/"));
  useKey("g>n", () => void navigate(`/studies/${id}/new-rows`));
  useKey("g>p", () => void navigate(`/studies/${id}/projection`));

  if (!bench) return <Waiting error={handle.error} />;
  const { study } = bench;
  return (
    <PointerContext.Provider value={pointer}>
      <div className="page full bench">
        <TopBar
          actions={
            <>
              <ViewSwitch id={id} at="bench" />
              <AsOf
                day={study.as_of}
                onPreview={(as_of) =>
                  handle.preview(
                    as_of === undefined
                      ? undefined
                      : { ledger: bench.ledger, settings: bench.settings, as_of },
                  )
                }
                onCommit={(as_of) =>
                  void handle.commit((kept) => ({ ...kept, as_of }), `As of ${formatDate(as_of)}`)
                }
              />
              <Button disabled={!study.can_undo} onClick={() => void handle.undo()}>
                Undo
              </Button>
              <Button disabled={!study.can_redo} onClick={() => void handle.redo()}>
                Redo
              </Button>
              <Button type="primary" onClick={() => setHandingOver(true)}>
                Hand over
              </Button>
            </>
          }
        >
          <Link to="/">Studies</Link> <span className="muted">/</span> <StudyName id={id} name={study.name} />
          <button
            type="button"
            className="link study-file"
            title="Bring in new rows"
            onClick={() => void navigate(`/studies/${id}/new-rows`)}
          >
            {study.file}
          </button>
          <span className="kept" role="status">
            {handle.saving
              ? "keeping…"
              : `kept · revision ${study.revision}${study.who && `, by ${study.who}`}`}
          </span>
        </TopBar>
        {handle.unsaved.length > 0 ? (
          <Conflict handle={handle} />
        ) : (
          <TroubleNote error={handle.trouble} onClose={handle.dropTrouble} />
        )}
        <main
          className="bench-body"
          style={{ "--ledger": `${room.ledger}px`, "--dock": `${room.dock}px` } as CSSProperties}
        >
          <LedgerPane
            handle={handle}
            bench={bench}
            selected={selected}
            onSelect={setSelected}
            onOffer={take}
          />
          <Splitter
            label="Width of the ledger"
            way="x"
            size={room.ledger}
            least={LIMITS.ledger[0]}
            most={LIMITS.ledger[1]}
            onSize={(ledger) => setRoom({ ledger })}
          />
          <section className={room.closed ? "bench-right closed" : "bench-right"}>
            <div className="chart-bar">
              <WindowPresets shown={shown} figure={figure ?? bench.figure} />
              <span className="grow" />
              <Segmented
                size="small"
                value={bench.settings.view ?? "after"}
                options={[
                  { label: "Before", value: "before" },
                  { label: "Both", value: "both" },
                  { label: "After", value: "after" },
                ]}
                onChange={view}
              />
            </div>
            <FigureBar handle={handle} bench={bench} onLeaveOut={leaveOut} />
            <div className="chart-room">
              <ChartPane
                figure={figure ?? bench.figure}
                shown={shown}
                onStretch={setStretch}
                over={(panels) => (
                  <LineHandles
                    handle={handle}
                    bench={bench}
                    figure={figure ?? bench.figure}
                    panels={panels}
                    onSelect={setSelected}
                  />
                )}
              />
              {stretch && (
                <StretchCard
                  studyId={id}
                  revision={bench.study.revision}
                  stretch={stretch}
                  onOffer={(offer) => take(offer)}
                  onClose={() => setStretch(undefined)}
                  onAsk={(period) => {
                    follow.note({ series: stretch.series, period }, { by_hand: true });
                    setStretch(undefined);
                    openTab("follow-up");
                  }}
                />
              )}
            </div>
            <Splitter
              label="Height of the dock"
              way="y"
              after
              size={room.dock}
              least={LIMITS.dock[0]}
              most={LIMITS.dock[1]}
              onSize={(dock) => setRoom({ dock, closed: false })}
              onDouble={() => setRoom({ closed: !room.closed })}
            />
            <Dock
              follow={follow}
              shown={shown}
              handle={handle}
              bench={bench}
              studyId={id}
              tab={tab}
              onTab={openTab}
              selected={selected}
              onStretch={setStretch}
            />
          </section>
        </main>
        <HandOver open={handingOver} onClose={() => setHandingOver(false)} bench={bench} />
      </div>
    </PointerContext.Provider>
  );
}

function Conflict({ handle }: { handle: ReturnType<typeof useBench> }) {
  const mine = handle.unsaved;
  return (
    <div className="trouble" role="alert">
      <div>
        <strong>{handle.trouble?.detail ?? "You are looking at the newer revision."}</strong>
        <span>
          {mine.length === 1
            ? `Your edit (${mine[0]?.what ?? "unsaved"}) is not lost: it waits here.`
            : `Your ${mine.length} edits (${mine.map((edit) => edit.what).join("; ")}) are not lost: they wait here.`}
        </span>
      </div>
      <Button onClick={() => void handle.lookAtNewer()}>Look at the newer one</Button>
      <Button type="primary" onClick={() => void handle.keepMine()}>
        {mine.length === 1 ? "Keep my edit over it" : "Keep my edits over it"}
      </Button>
      <Button onClick={handle.dropTrouble}>{mine.length === 1 ? "Drop my edit" : "Drop my edits"}</Button>
    </div>
  );
}

function StudyName({ id, name }: { id: number; name: string }) {
  const [draft, setDraft] = useState<string>();
  const client = useQueryClient();
  const { message } = AntApp.useApp();
  const keep = async () => {
    const wanted = draft?.trim();
    setDraft(undefined);
    if (!wanted || wanted === name) return;
    try {
      await dataOf(
        api.PUT("/api/studies/{study_id}/name", {
          params: { path: { study_id: id } },
          body: { name: wanted },
        }),
      );
      await client.invalidateQueries();
    } catch (error) {
      void message.error(String(error));
    }
  };
  if (draft !== undefined) {
    return (
      <Input
        autoFocus
        size="small"
        className="study-name-input"
        value={draft}
        onChange={(event) => setDraft(event.target.value)}
        onPressEnter={() => void keep()}
        onBlur={() => void keep()}
        onKeyDown={(event) => event.key === "Escape" && setDraft(undefined)}
      />
    );
  }
  return (
    <h1 className="study-name">
      <button type="button" title="Rename the study" onClick={() => setDraft(name)}>
        {name}
      </button>
    </h1>
  );
}
