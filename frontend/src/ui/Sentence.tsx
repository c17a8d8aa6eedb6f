import { useCallback, useRef, useState, type ReactNode } from "react";
import type { Params, Part, Slot } from "../api/client";
import { Word } from "./Word";

export interface SentenceProps {
  parts: Part[];
  params: Params;
  words: Slot[];
  /** Lists that words are taken from, by name. */
  options: Record<string, string[]>;
  /** Called while a word is being changed; undefined takes the change back. */
  onPreview: (params: Params | undefined) => void;
  onCommit: (params: Params, what: string) => void;
  disabled?: boolean;
  /** What stands at the end of the last line. */
  end?: ReactNode;
}

/** Any sentence of the product, every underlined word editable in place. */
export function Sentence({
  parts,
  params,
  words,
  options,
  onPreview,
  onCommit,
  disabled,
  end,
}: SentenceProps) {
  const [draft, setDraft] = useState<Params>();
  const draftRef = useRef<Params | undefined>(undefined);
  const before = useRef<Params>(params);
  const change = useCallback(
    (name: string, value: unknown) => {
      // what is shown follows the preview: what the sentence said before is kept aside
      if (!draftRef.current) before.current = params;
      draftRef.current = { ...(draftRef.current ?? params), [name]: value };
      setDraft(draftRef.current);
      onPreview(draftRef.current);
    },
    [onPreview, params],
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
      const next = { ...(draftRef.current ?? params), [name]: value };
      draftRef.current = undefined;
      setDraft(undefined);
      if (JSON.stringify(next) === JSON.stringify(start)) onPreview(undefined);
      else onCommit(next, text);
    },
    [onCommit, onPreview, params],
  );
  return (
    <p className="sentence">
      {parts.map((part, at) => {
        const slot = part.slot ? words.find((word) => word.name === part.slot) : undefined;
        const text = at === 0 ? part.text.charAt(0).toUpperCase() + part.text.slice(1) : part.text;
        if (!slot) return <span key={at}>{text}</span>;
        return (
          <Word
            key={`${slot.name}-${at}`}
            slot={slot}
            text={text}
            value={(draft ?? params)[slot.name]}
            choices={slot.options ? (options[slot.options] ?? []) : []}
            disabled={disabled ?? false}
            onChange={change}
            onRevert={revert}
            onCommit={commit}
          />
        );
      })}
      {end}
    </p>
  );
}
