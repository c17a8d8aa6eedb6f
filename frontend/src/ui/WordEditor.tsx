import { Button, Checkbox, Input, type InputRef } from "antd";
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import type { Slot } from "../api/client";
import { EventsEditor } from "./EventsEditor";
import { formatLabel, plural } from "./format";
import { TypedLines } from "./TypedLines";
import { nudged, parseTyped, typedText } from "./words";

interface Props {
  slot: Slot;
  value: unknown;
  choices: string[];
  onChange: (value: unknown) => void;
  onKeep: (value: unknown) => void;
  onBack: () => void;
}

/** What opens under a word: a list to choose from, boxes to tick, or a field to type in. */
export function WordEditor(props: Props) {
  const { slot } = props;
  if (slot.type === "choice" || slot.type === "name") return <OneOf {...props} />;
  if (slot.type === "choices" || (slot.type === "names" && slot.options)) return <SomeOf {...props} />;
  if (slot.type === "points") return <Points {...props} />;
  if (slot.type === "events") return <EventsEditor {...props} title={slot.title} />;
  if (slot.type === "dates") return <Days {...props} />;
  return <Typed {...props} />;
}

/** Points chosen elsewhere (in the chart, the strip, the table or the evidence), each to be taken off. */
function Points({ slot, value, onKeep, onBack }: Props) {
  const points = (Array.isArray(value) ? value : []) as { series: string; period: string }[];
  return (
    <div
      className="boxes"
      tabIndex={-1}
      ref={(element) => element?.focus()}
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        onBack();
      }}
    >
      <p className="muted">
        {points.length
          ? slot.title
          : "None. Click a point of the chart, a stretch of the strip or a row of the values, or choose in Evidence."}
      </p>
      <ul className="ways">
        {points.map((point) => (
          <li key={`${point.series} ${point.period}`}>
            <span>
              {formatLabel(point.period)} · {point.series}
            </span>
            <button
              type="button"
              className="link"
              onClick={() => onKeep(points.filter((kept) => kept !== point))}
            >
              take off
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Days typed, pasted or read from a text file, whatever stands between them. */
function Days({ slot, value, onKeep, onBack }: Props) {
  const [text, setText] = useState(() => (Array.isArray(value) ? value.join("\n") : ""));
  const days = [...new Set(text.match(/\b\d{4}-\d{2}-\d{2}\b/g) ?? [])].sort();
  const strange = text.replaceAll(/\b\d{4}-\d{2}-\d{2}\b/g, "").match(/\S*\d\S*/)?.[0];
  const wrong = days.some((day) => Number.isNaN(Date.parse(day)))
    ? "One of these is no day of the calendar."
    : strange && !days.length
      ? `“${strange}” is not written like 2026-12-25.`
      : undefined;
  return (
    <TypedLines
      title={`${slot.title}, like 2026-12-25`}
      text={text}
      rows={6}
      placeholder="one a line, or with commas between"
      said={wrong ?? `${plural(days.length, "day")} understood`}
      wrong={Boolean(wrong)}
      onText={setText}
      onKeep={wrong ? undefined : () => onKeep(days)}
      onBack={onBack}
    />
  );
}

interface Item {
  value: string | null;
  label: string;
  tip: string;
}

function items(slot: Slot, choices: string[]): Item[] {
  const list: Item[] = slot.choices.length
    ? slot.choices
    : choices.map((name) => ({ value: name, label: name, tip: "" }));
  return slot.empty && slot.type === "name" ? [{ value: null, label: slot.empty, tip: "" }, ...list] : list;
}

/** From here on a list of choices can be searched. */
const MANY = 20;

function OneOf({ slot, value, choices, onKeep, onBack }: Props) {
  const all = items(slot, choices);
  const [find, setFind] = useState("");
  const wanted = find.toLowerCase();
  // what begins with the words before what holds them somewhere
  const known = all
    .filter((item) => item.label.toLowerCase().includes(wanted))
    .sort((a, b) => +b.label.toLowerCase().startsWith(wanted) - +a.label.toLowerCase().startsWith(wanted))
    .slice(0, 200);
  // a colour that is not in the list can be written
  const list =
    slot.options === "colours" && /^#[0-9a-f]{6}$/.test(wanted)
      ? [{ value: wanted, label: wanted, tip: "" }]
      : known;
  const [at, setAt] = useState(() =>
    Math.max(
      0,
      list.findIndex((item) => item.value === value),
    ),
  );
  const box = useRef<HTMLUListElement>(null);
  const finder = useRef<InputRef>(null);
  useEffect(() => (finder.current ? finder.current.focus() : box.current?.focus()), []);
  useEffect(() => {
    box.current?.children[at]?.scrollIntoView({ block: "nearest" });
  }, [at]);
  const onKeyDown = (event: KeyboardEvent) => {
    const moves: Record<string, number> = { ArrowDown: 1, ArrowUp: -1 };
    const move = moves[event.key];
    if (move) setAt((now) => (now + move + list.length) % Math.max(1, list.length));
    else if (event.key === "Enter") {
      const item = list[at];
      if (item) onKeep(item.value);
    } else if (event.key === "Escape") onBack();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const choose = (
    <ul
      ref={box}
      className="choices"
      role="listbox"
      tabIndex={all.length > MANY ? -1 : 0}
      aria-label={slot.title}
      aria-activedescendant={`choice-${slot.name}-${at}`}
      onKeyDown={all.length > MANY ? undefined : onKeyDown}
    >
      {list.map((item, n) => (
        <li
          key={item.value ?? ""}
          id={`choice-${slot.name}-${n}`}
          role="option"
          aria-selected={item.value === value}
          className={n === at ? "at" : undefined}
          onMouseEnter={() => setAt(n)}
          onClick={() => onKeep(item.value)}
        >
          {item.label}
          {item.tip && <small>{item.tip}</small>}
        </li>
      ))}
    </ul>
  );
  if (all.length <= MANY) return choose;
  return (
    <div className="finding" onKeyDown={onKeyDown}>
      <Input
        ref={finder}
        size="small"
        placeholder={`Find in ${all.length}`}
        aria-label={`Find ${slot.title}`}
        value={find}
        onChange={(event) => {
          setFind(event.target.value);
          setAt(0);
        }}
      />
      {choose}
    </div>
  );
}

/** From here on boxes are ticked together, and no more than so many are listed at once. */
const FEW = 3;
const MOST_LISTED = 100;

function inOrder(list: Item[], ticked: string[]): string[] {
  const wanted = new Set(ticked);
  return list.map((item) => String(item.value)).filter((text) => wanted.has(text));
}

function SomeOf({ slot, value, choices, onChange, onKeep, onBack }: Props) {
  const list = items(slot, choices);
  const [chosen, setChosen] = useState<string[]>(() => (Array.isArray(value) ? value.map(String) : []));
  const [find, setFind] = useState("");
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.querySelector("input")?.focus(), []);
  const optional = Boolean(slot.empty);
  const set = (next: string[]) => {
    setChosen(next);
    if (next.length || optional) onChange(next);
  };
  const found = list.filter((item) => item.label.toLowerCase().includes(find.toLowerCase()));
  const shown = found.slice(0, MOST_LISTED);
  const names = found.map((item) => String(item.value));
  // where the order matters, it is that of the ticks
  const ordered = (ticked: string[]) => (slot.ordered ? [...new Set(ticked)] : inOrder(list, ticked));
  return (
    <div
      ref={box}
      className="boxes"
      role="group"
      aria-label={slot.title}
      onKeyDown={(event) => {
        if (event.key === "Enter" && (chosen.length || optional)) onKeep(chosen);
        else if (event.key === "Escape") onBack();
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {list.length > 10 && (
        <Input
          size="small"
          placeholder="Find"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
      )}
      {list.length > FEW && (
        <p className="boxes-all">
          <button type="button" className="link" onClick={() => set(ordered([...chosen, ...names]))}>
            tick {find ? "those found" : "all"}
          </button>
          <button
            type="button"
            className="link"
            onClick={() => set(chosen.filter((text) => !names.includes(text)))}
          >
            tick none{find ? " of them" : ""}
          </button>
          <span className="muted">
            {chosen.length} of {list.length}
          </span>
        </p>
      )}
      <div className="boxes-list">
        {shown.map((item) => (
          <Checkbox
            key={item.value}
            checked={chosen.includes(String(item.value))}
            onChange={(event) => {
              const name = String(item.value);
              const ticked = event.target.checked
                ? [...chosen, name]
                : chosen.filter((word) => word !== name);
              set(ordered(ticked));
            }}
          >
            {slot.ordered && chosen.includes(String(item.value)) && (
              <b>{chosen.indexOf(String(item.value)) + 1}. </b>
            )}
            {item.label}
            {item.tip && <small> {item.tip}</small>}
          </Checkbox>
        ))}
        {found.length > shown.length && (
          <p className="muted">and {found.length - shown.length} more: type some of a name to find them</p>
        )}
      </div>
      <div className="editor-foot">
        {optional && (
          <Button size="small" onClick={() => onKeep([])}>
            {slot.empty}
          </Button>
        )}
        <Button
          size="small"
          type="primary"
          disabled={!chosen.length && !optional}
          onClick={() => onKeep(chosen)}
        >
          Keep
        </Button>
      </div>
    </div>
  );
}

function Typed({ slot, value, onChange, onKeep, onBack }: Props) {
  const [text, setText] = useState(() => typedText(value));
  const input = useRef<HTMLInputElement>(null);
  const parsed = parseTyped(slot, text);
  const wrong = "wrong" in parsed ? parsed.wrong : undefined;
  useEffect(() => {
    input.current?.focus();
    input.current?.select();
  }, []);
  const take = (next: string) => {
    setText(next);
    const typed = parseTyped(slot, next);
    if ("value" in typed) onChange(typed.value);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Enter") {
      if ("value" in parsed) onKeep(parsed.value);
    } else if (event.key === "Escape") onBack();
    else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      const from = "value" in parsed ? parsed.value : value;
      const next = nudged(slot, from, event.key === "ArrowUp" ? 1 : -1, event.shiftKey);
      if (next === undefined) return;
      take(typedText(next));
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div className="typed" onKeyDown={onKeyDown}>
      <label>
        <span>
          {slot.title}
          {slot.unit ? `, ${slot.unit}` : ""}
        </span>
        <input
          ref={input}
          value={text}
          type={slot.type === "date" ? "date" : "text"}
          aria-invalid={Boolean(wrong)}
          onChange={(event) => take(event.target.value)}
          size={Math.max(10, Math.min(60, text.length + 2))}
        />
      </label>
      {wrong && <p className="wrong">{wrong}</p>}
      <div className="editor-foot">
        {slot.empty && (
          <Button size="small" onClick={() => onKeep(slot.type === "names" ? [] : null)}>
            {slot.empty}
          </Button>
        )}
        <Button
          size="small"
          type="primary"
          disabled={Boolean(wrong)}
          onClick={() => "value" in parsed && onKeep(parsed.value)}
        >
          Keep
        </Button>
      </div>
    </div>
  );
}
