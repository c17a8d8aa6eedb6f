import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState, type KeyboardEvent } from "react";
import { formatLabel, formatNumber, formatSigned } from "../ui/format";
import { rowKeys } from "../ui/rows";
import { TroubleNote } from "../ui/Trouble";
import { usePointer } from "./pointer";
import type { Item, useFollowUp } from "./useFollowUp";
import type { ShownWindow } from "./window";

const STATES = ["open", "asked", "explained"] as const;
const KEYS: Record<string, Item["state"]> = { o: "open", a: "asked", x: "explained" };

const ROW = 30; // pixels of a row, before it is measured
/** Rows drawn beyond what is seen, so that arrow keys find the next one. */
const BEYOND = 20;

interface Order {
  by: string;
  down: boolean;
}

const SORTED: Record<string, (item: Item, n: number) => string | number> = {
  // newest first, as the list comes
  Period: (_, n) => -n,
  Series: (item) => item.series,
  Value: (item) => item.value ?? -Infinity,
  "Away by": (item) => Math.abs(item.distance ?? 0),
  "Found by": (item) => item.found_by.join(", "),
  Note: (item) => item.note,
  State: (item) => item.state,
  Who: (item) => item.who,
};

function inOrder(items: Item[], { by, down }: Order): Item[] {
  const keys = items.map((item, n) => ({ item, n, key: SORTED[by]?.(item, n) ?? "" }));
  keys.sort((a, b) => {
    const way =
      typeof a.key === "number" && typeof b.key === "number"
        ? a.key - b.key
        : String(a.key).localeCompare(String(b.key));
    return (down ? -way : way) || a.n - b.n;
  });
  return keys.map(({ item }) => item);
}

interface Props {
  follow: ReturnType<typeof useFollowUp>;
  shown: ShownWindow;
}

/** The periods to ask about: filtered, noted and worked through, by keyboard too. */
export function FollowUp({ follow, shown }: Props) {
  const { list } = follow;
  const pointer = usePointer();
  const [only, setOnly] = useState<Item["state"]>();
  const [finder, setFinder] = useState<string>();
  const [series, setSeries] = useState<string>();
  const [order, setOrder] = useState<Order>({ by: "Period", down: true });
  const box = useRef<HTMLDivElement>(null);
  const kept = (list?.items ?? []).filter(
    (item) =>
      (!only || item.state === only) &&
      (!finder || item.found_by.includes(finder)) &&
      (!series || item.series === series),
  );
  const items = inOrder(kept, order);
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => box.current?.parentElement ?? null,
    estimateSize: () => ROW,
    overscan: BEYOND,
  });
  const drawn = rows.getVirtualItems();
  const above = drawn[0]?.start ?? 0;
  const below = rows.getTotalSize() - (drawn.at(-1)?.end ?? 0);
  if (follow.error && !list) return <TroubleNote error={follow.error} />;
  if (!list) return <p className="muted">Looking for what is worth asking about…</p>;
  const finders = [...new Set(list.items.flatMap((item) => item.found_by))];
  const names = [...new Set(list.items.map((item) => item.series))];
  const head = (by: string, number = false) => (
    <th
      key={by}
      className={number ? "number" : undefined}
      aria-sort={order.by === by ? (order.down ? "descending" : "ascending") : "none"}
    >
      <button
        type="button"
        className="sort"
        onClick={() => setOrder({ by, down: order.by === by ? !order.down : true })}
      >
        {by}
        {order.by === by ? (order.down ? " ↓" : " ↑") : ""}
      </button>
    </th>
  );
  const goTo = (item: Item) => {
    if (item.at === null) return;
    const [from, to] = shown.range;
    if (item.at < from || item.at > to) {
      const half = (to - from) / 2;
      shown.set([item.at - half, item.at + half]);
    }
    pointer.set(item.at);
  };
  const onKeyDown = (item: Item) => (event: KeyboardEvent<HTMLTableRowElement>) => {
    if (event.target !== event.currentTarget) return;
    const row = event.currentTarget;
    const state = KEYS[event.key];
    const done = rowKeys(event, {
      Enter: () => row.querySelector("input")?.focus(),
      ...(state && { [event.key]: () => follow.note(item, { state }) }),
    });
    if (done) event.stopPropagation();
  };
  return (
    <div className="follow-up" ref={box}>
      <div className="follow-bar">
        {STATES.map((state) => (
          <button
            key={state}
            type="button"
            className={only === state ? "link at" : "link"}
            aria-pressed={only === state}
            onClick={() => setOnly(only === state ? undefined : state)}
          >
            {state} <b>{list[state]}</b>
          </button>
        ))}
        {finders.length > 1 && (
          <select
            aria-label="Found by"
            value={finder ?? ""}
            onChange={(event) => setFinder(event.target.value || undefined)}
          >
            <option value="">found by any</option>
            {finders.map((finder) => (
              <option key={finder}>{finder}</option>
            ))}
          </select>
        )}
        {names.length > 1 && (
          <select
            aria-label="Series"
            value={series ?? ""}
            onChange={(event) => setSeries(event.target.value || undefined)}
          >
            <option value="">every series</option>
            {names.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        )}
        <span className="grow" />
        <button type="button" className="link" disabled={!list.can_undo} onClick={() => follow.move("undo")}>
          take back the last note
        </button>
        <button type="button" className="link" disabled={!list.can_redo} onClick={() => follow.move("redo")}>
          note it again
        </button>
      </div>
      {items.length === 0 ? (
        <p className="muted">
          {list.items.length
            ? "None in this state."
            : "Nothing to ask about yet. Outliers come here by themselves, marked periods when their sentence says so, and any period by “Ask about this” in the strip, the chart or the values."}
        </p>
      ) : (
        <table>
          <thead>
            <tr>
              {head("Period")}
              {head("Series")}
              {head("Value", true)}
              {head("Away by", true)}
              {head("Found by")}
              {head("Note")}
              {head("State")}
              {head("Who")}
            </tr>
          </thead>
          <tbody>
            {above > 0 && <tr style={{ height: above }} aria-hidden />}
            {drawn
              .map(({ index }) => [index, items[index]] as const)
              .map(
                ([index, item]) =>
                  item && (
                    <tr
                      key={`${item.series} ${item.period}`}
                      ref={rows.measureElement}
                      data-index={index}
                      tabIndex={0}
                      className={item.gone ? "gone" : undefined}
                      aria-label={`${formatLabel(item.period)}, ${item.series}, ${item.state}. Enter notes, o, a and x set the state.`}
                      onClick={() => goTo(item)}
                      onFocus={(event) => event.target === event.currentTarget && goTo(item)}
                      onKeyDown={onKeyDown(item)}
                    >
                      <td>
                        <b>{formatLabel(item.period)}</b>
                      </td>
                      <td>{item.series}</td>
                      <td className="number">{formatNumber(item.value)}</td>
                      <td className="number">{away(item.distance)}</td>
                      <td>{item.gone ? <em title={item.gone}>{item.gone}</em> : item.found_by.join(", ")}</td>
                      <td>
                        <Field
                          key={item.note}
                          text={item.note}
                          label={`Note for ${formatLabel(item.period)}`}
                          hint="write a note…"
                          onKeep={(note) => follow.note(item, { note })}
                        />
                      </td>
                      <td>
                        <button
                          type="button"
                          className={`state ${item.state}`}
                          title="Click for the next state"
                          onClick={(event) => {
                            event.stopPropagation();
                            follow.note(item, { state: after(item.state) });
                          }}
                        >
                          {item.state}
                        </button>
                      </td>
                      <td>
                        <Field
                          key={item.who}
                          text={item.who}
                          label={`Who, for ${formatLabel(item.period)}`}
                          hint="who"
                          onKeep={(who) => follow.note(item, { who })}
                        />
                      </td>
                    </tr>
                  ),
              )}
            {below > 0 && <tr style={{ height: below }} aria-hidden />}
          </tbody>
        </table>
      )}
    </div>
  );
}

function after(state: Item["state"]): Item["state"] {
  return STATES[(STATES.indexOf(state) + 1) % STATES.length] ?? "open";
}

function away(distance: number | null): string {
  return distance === null ? "—" : formatSigned(distance);
}

interface FieldProps {
  text: string;
  label: string;
  hint: string;
  onKeep: (text: string) => void;
}

/** A text that is kept when it is left; Enter goes on to the row, Escape takes it back. */
function Field({ text, label, hint, onKeep }: FieldProps) {
  return (
    <input
      className="reason"
      defaultValue={text}
      placeholder={hint}
      aria-label={label}
      maxLength={label.startsWith("Who") ? 60 : 500}
      onClick={(event) => event.stopPropagation()}
      onBlur={(event) => {
        const next = event.target.value.trim();
        if (next !== text) onKeep(next);
      }}
      onKeyDown={(event) => {
        if (event.key === "Escape") event.currentTarget.value = text;
        if (event.key === "Enter" || event.key === "Escape") event.currentTarget.closest("tr")?.focus();
        event.stopPropagation();
      }}
    />
  );
}
