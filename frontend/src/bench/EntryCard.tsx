import { Dropdown } from "antd";
import { useEffect, useRef, type KeyboardEvent } from "react";
import type { Entry, Params, Slot } from "../api/client";
import { openManual } from "../manual/open";
import { Sentence } from "../ui/Sentence";
import { formatNumber } from "../ui/format";
import { WorkNote } from "./WorkNote";

interface Props {
  entry: Entry;
  words: Slot[];
  options: Record<string, string[]>;
  usual: Record<string, number>;
  readings: Slot["choices"];
  once: boolean;
  selected: boolean;
  /** Just added: its first word takes the focus. */
  fresh: boolean;
  /** Whether swapping it with the next entry would change the lines. */
  orderMatters: boolean;
  onSelect: () => void;
  onOffer: (offer: Entry["offers"][number]) => void;
  onPreview: (params: Params | undefined) => void;
  onCommit: (params: Params, what: string) => void;
  onToggle: () => void;
  onMove: (by: -1 | 1) => void;
  onCopy: () => void;
  onRemove: () => void;
  /** Its work elsewhere was stopped or begun again. */
  onAsked: () => Promise<void>;
}

/** One ledger entry: its sentence, what it touched, and what can be done with it. */
export function EntryCard(props: Props) {
  const { entry, once, selected } = props;
  const card = useRef<HTMLElement>(null);
  useEffect(() => {
    if (props.fresh) card.current?.querySelector<HTMLElement>(".word")?.focus();
  }, [props.fresh]);
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.altKey && event.key === "ArrowUp") props.onMove(-1);
    else if (event.altKey && event.key === "ArrowDown") props.onMove(1);
    else if (event.target !== event.currentTarget || once) return;
    else if (event.key === " ") props.onToggle();
    else if (event.key === "Delete") props.onRemove();
    else return;
    event.preventDefault();
  };
  const state = [selected && "selected", !entry.on && "off", entry.problem && "failed"]
    .filter(Boolean)
    .join(" ");
  return (
    <article
      ref={card}
      className={`entry ${state}`}
      tabIndex={0}
      aria-label={`${entry.title}${entry.on ? "" : ", switched off"}`}
      data-entry={entry.kind}
      // by keys only: a card that opens between the press and the release of a button takes the button from under it
      onFocus={(event) => event.target.matches(":focus-visible") && props.onSelect()}
      onClick={props.onSelect}
      onKeyDown={onKeyDown}
    >
      <Sentence
        parts={entry.parts}
        params={entry.params}
        words={props.words}
        options={props.options}
        usual={props.usual}
        readings={props.readings}
        whole={props.selected}
        onPreview={props.onPreview}
        onCommit={props.onCommit}
        end={<span className="touched">{touchedText(entry)}</span>}
      />
      {entry.work && <WorkNote work={entry.work} group={entry.group} onAsked={props.onAsked} />}
      {entry.problem && (
        <p className="entry-problem">
          {entry.problem.what} {entry.problem.todo}
        </p>
      )}
      {entry.warnings.map((warning) => (
        <p key={warning} className="entry-warning">
          {warning}
        </p>
      ))}
      {entry.offers.map((offer) => (
        <p key={offer.why} className="offer">
          {offer.why}{" "}
          <button type="button" className="link" onClick={() => props.onOffer(offer)}>
            {offer.action}
          </button>
        </p>
      ))}
      {props.orderMatters && (
        <span className="order" title="Swapped with the entry below, this gives another result.">
          ⇅ order matters
        </span>
      )}
      {selected && isOurs(entry.kind) && (
        <button type="button" className="link about" onClick={() => openManual({ kind: entry.kind })}>
          what is this
        </button>
      )}
      {!once && (
        <Dropdown
          trigger={["click"]}
          autoFocus
          menu={{
            items: [
              { key: "toggle", label: entry.on ? "Switch off" : "Switch on", onClick: props.onToggle },
              { key: "up", label: "Move up", onClick: () => props.onMove(-1) },
              { key: "down", label: "Move down", onClick: () => props.onMove(1) },
              { key: "copy", label: "Copy", onClick: props.onCopy },
              { key: "remove", label: "Remove", danger: true, onClick: props.onRemove },
            ],
          }}
        >
          <button type="button" className="quiet more" aria-label={`What can be done with ${entry.title}`}>
            ⋯
          </button>
        </Dropdown>
      )}
    </article>
  );
}

/** Kinds that packages bring have the package's name before theirs, and its own pages. */
function isOurs(kind: string): boolean {
  return !kind.includes(":");
}

function touchedText(entry: Entry): string {
  if (!entry.on) return "off";
  if (entry.waiting) return entry.work ? "" : "waits for you to finish";
  return entry.touched_what ? `${formatNumber(entry.touched)} ${entry.touched_what}` : "";
}
