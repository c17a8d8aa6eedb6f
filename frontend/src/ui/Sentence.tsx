import { useCallback, useRef, useState, type ReactNode } from "react";
import type { Params, Part, Slot } from "../api/client";
import { asChoice, exchanged, isWords, slotAt, valueAt, withValue } from "./clauses";
import { Word } from "./Word";

const NONE: Record<string, number> = {};

interface SentenceProps {
  parts: Part[];
  params: Params;
  words: Slot[];
  /** Lists that words are taken from, by name. */
  options: Record<string, string[]>;
  /** Figures of the study that new clauses take up. */
  usual?: Record<string, number>;
  /** What earlier entries drew, for words that speak of one. */
  readings?: Slot["choices"];
  /** Called while a word is being changed; undefined takes the change back. */
  onPreview: (params: Params | undefined) => void;
  onCommit: (params: Params, what: string) => void;
  disabled?: boolean;
  /** Whether quiet words are said too; where not, they can be opened. */
  whole?: boolean;
  /** What stands at the end of the last line. */
  end?: ReactNode;
}

/** Any sentence of the product, every underlined word editable in place. */
export function Sentence({
  parts,
  params,
  words,
  options,
  usual = NONE,
  readings = [],
  onPreview,
  onCommit,
  disabled,
  whole,
  end,
}: SentenceProps) {
  const [opened, setOpened] = useState(false);
  // a word that is clicked must not run away: until it is left, the sentence stays as short as it was
  const [held, setHeld] = useState<boolean>();
  const all = opened || (held ?? Boolean(whole));
  // a word keeps its place in the whole sentence: it stays itself when others are opened beside it
  const said = parts.map((part, at) => ({ part, at })).filter(({ part }) => all || !part.quiet);
  const more = parts.filter((part) => part.quiet && part.slot).length;
  const [draft, setDraft] = useState<Params>();
  const draftRef = useRef<Params | undefined>(undefined);
  const before = useRef<Params>(params);
  /** The words with another value of one; another kind of clause brings words of its own. */
  const changed = useCallback(
    (now: Params, path: string, value: unknown) => {
      const slot = slotAt(words, now, path);
      const next = slot?.type === "clause" ? exchanged(slot, valueAt(now, path), value, usual) : value;
      return withValue(now, path, next);
    },
    [words, usual],
  );
  const change = useCallback(
    (name: string, value: unknown) => {
      // what is shown follows the preview: what the sentence said before is kept aside
      if (!draftRef.current) before.current = params;
      draftRef.current = changed(draftRef.current ?? params, name, value);
      setDraft(draftRef.current);
      onPreview(draftRef.current);
    },
    [onPreview, params, changed],
  );
  const revert = useCallback(() => {
    if (!draftRef.current) return;
    draftRef.current = undefined;
    setDraft(undefined);
    onPreview(undefined);
  }, [onPreview]);
  const commit = useCallback(
    (name: string, value: unknown, text: string) => {
      const start = draftRef.current ? before.current : params;
      const next = changed(draftRef.current ?? params, name, value);
      draftRef.current = undefined;
      setDraft(undefined);
      if (JSON.stringify(next) === JSON.stringify(start)) onPreview(undefined);
      else onCommit(next, text);
    },
    [onCommit, onPreview, params, changed],
  );
  return (
    <p
      className="sentence"
      onPointerDownCapture={(event) => {
        if ((event.target as Element).closest(".word")) setHeld((now) => now ?? Boolean(whole));
      }}
      onBlur={(event) => {
        const to = event.relatedTarget;
        if (!event.currentTarget.contains(to) && !to?.closest(".ant-popover")) setHeld(undefined);
      }}
    >
      {said.map(({ part, at }) => {
        const known = part.slot ? slotAt(words, draft ?? params, part.slot) : undefined;
        const text =
          at === 0 && !part.name ? part.text.charAt(0).toUpperCase() + part.text.slice(1) : part.text;
        if (!known || !part.slot) return <span key={at}>{text}</span>;
        const slot = asChoice(known, readings);
        const value = valueAt(draft ?? params, part.slot);
        return (
          <Word
            key={`${part.slot}-${at}`}
            path={part.slot}
            slot={slot}
            text={text}
            value={known.type === "clause" && isWords(value) ? value.kind : value}
            choices={slot.options ? (options[slot.options] ?? []) : []}
            disabled={disabled ?? false}
            onChange={change}
            onRevert={revert}
            onCommit={commit}
          />
        );
      })}
      {more > 0 && (opened || !all) && (
        <button
          type="button"
          className="more-words"
          aria-expanded={opened}
          onClick={(event) => {
            event.stopPropagation();
            setOpened(!opened);
          }}
        >
          {opened ? "fewer words" : `${more} more word${more > 1 ? "s" : ""}`}
        </button>
      )}
      {end}
    </p>
  );
}
