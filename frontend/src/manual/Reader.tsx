import { Input } from "antd";
import { useEffect, useRef, useState } from "react";
import Markdown from "react-markdown";
import remarkGfm from "remark-gfm";
import { anchorOf, HOME, KEYS, PAGES, search, sectionOf } from "./pages";
import "./manual.css";

/** Where in the manual: a page and a heading of it, or the kind of entry that is to be explained. */
export interface Place {
  page?: string;
  anchor?: string;
  kind?: string;
}

interface Props {
  place: Place;
  onPlace: (place: Place) => void;
}

/** A page of the manual, and the search for one. */
export function Reader({ place, onPlace }: Props) {
  const [wanted, setWanted] = useState("");
  const box = useRef<HTMLDivElement>(null);
  const section = place.kind ? sectionOf(place.kind) : undefined;
  const name = section?.page ?? place.page ?? HOME;
  const anchor = section?.anchor ?? place.anchor;
  const page = PAGES.find((each) => each.name === name) ?? PAGES.find((each) => each.name === HOME);
  useEffect(() => {
    const heading = anchor ? box.current?.querySelector(`[id="${CSS.escape(anchor)}"]`) : undefined;
    if (heading) heading.scrollIntoView({ block: "start" });
    else box.current?.parentElement?.scrollTo?.({ top: 0 });
  }, [name, anchor]);
  const go = (to: Place) => {
    setWanted("");
    onPlace(to);
  };
  const found = search(wanted);
  return (
    <div className="manual">
      <div className="manual-top">
        <Input
          allowClear
          autoFocus
          placeholder="How do I…"
          aria-label="How do I… Find in the manual"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
          onPressEnter={() => found[0] && go(found[0])}
        />
        {name !== HOME && (
          <button type="button" className="link" onClick={() => go({})}>
            all pages
          </button>
        )}
      </div>
      {wanted.trim() ? (
        <ul className="manual-found" aria-label="Found in the manual">
          {found.map((each) => (
            <li key={`${each.page}#${each.anchor}`}>
              <button type="button" className="link" onClick={() => go(each)}>
                {each.heading.replaceAll("`", "")}
              </button>
              <small>{PAGES.find((page) => page.name === each.page)?.title}</small>
            </li>
          ))}
          {!found.length && <li className="muted">Nothing in the manual has all these words.</li>}
        </ul>
      ) : (
        <div className="manual-text" ref={box}>
          <Text text={page?.text ?? ""} onPlace={go} />
          {name === HOME && <Text text={PAGES.find((each) => each.name === KEYS)?.text ?? ""} onPlace={go} />}
        </div>
      )}
    </div>
  );
}

function Text({ text, onPlace }: { text: string; onPlace: (place: Place) => void }) {
  return (
    <Markdown
      remarkPlugins={[remarkGfm]}
      components={{
        h2: ({ node, children }) => <h2 id={anchorOf(textOf(node))}>{children}</h2>,
        a: ({ href = "", children }) => {
          const [page = "", anchor] = href.replace(".md", "").split("#");
          return (
            <button type="button" className="link" onClick={() => onPlace({ page, anchor })}>
              {children}
            </button>
          );
        },
      }}
    >
      {text}
    </Markdown>
  );
}

interface Piece {
  value?: unknown;
  children?: unknown[];
}

/** The text of a heading, with what is set as code in its marks, as the file has it. */
function textOf(node: unknown): string {
  const { value, children } = (node ?? {}) as Piece;
  return (typeof value === "string" ? value : "") + (children ?? []).map(textOf).join("");
}
