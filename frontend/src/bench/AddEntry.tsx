import { Input, Modal, type InputRef } from "antd";
import { useRef, useState } from "react";
import type { Schemas } from "../api/client";

type Kind = Schemas["KindView"];

interface Props {
  groups: { title: string; kinds: Kind[] }[];
  onAdd: (kind: Kind) => void;
  onClose: () => void;
}

/** Every kind of entry, by group; letters search it. */
export function AddEntry({ groups, onAdd, onClose }: Props) {
  const [find, setFind] = useState("");
  const [at, setAt] = useState(0);
  const input = useRef<InputRef>(null);
  const said = find.trim().toLowerCase();
  const found = groups
    .map((group) => ({
      ...group,
      kinds: group.kinds.filter((kind) => `${kind.title}\n${kind.hint}`.toLowerCase().includes(said)),
    }))
    .filter((group) => group.kinds.length > 0);
  const kinds = found.flatMap((group) => group.kinds);
  const chosen = kinds[Math.min(at, kinds.length - 1)];
  const step = (by: number) => {
    const next = Math.max(0, Math.min(kinds.length - 1, at + by));
    setAt(next);
    document.getElementById(`add-${kinds[next]?.kind}`)?.scrollIntoView({ block: "nearest" });
  };
  return (
    <Modal
      open
      title="Add an entry"
      footer={null}
      width={560}
      onCancel={onClose}
      afterOpenChange={(open) => open && input.current?.focus()}
    >
      <Input
        ref={input}
        autoFocus
        allowClear
        placeholder="Find: average, gaps, outliers…"
        aria-label="Find a kind of entry"
        role="combobox"
        aria-expanded
        aria-controls="add-entry"
        aria-activedescendant={chosen ? `add-${chosen.kind}` : undefined}
        value={find}
        onChange={(event) => {
          setFind(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") step(1);
          else if (event.key === "ArrowUp") step(-1);
          else if (event.key === "Enter" && chosen) onAdd(chosen);
          else return;
          event.preventDefault();
        }}
      />
      <div id="add-entry" className="add-entry" role="listbox" aria-label="Kinds of entry">
        {found.map(({ title, kinds: some }) => (
          <div key={title} role="group" aria-label={title}>
            <h4>{title}</h4>
            {some.map((kind) => (
              <div
                key={kind.kind}
                id={`add-${kind.kind}`}
                role="option"
                aria-selected={kind === chosen}
                className="kind"
                onClick={() => onAdd(kind)}
              >
                <strong>{kind.title}</strong>
                <small>{kind.hint}</small>
              </div>
            ))}
          </div>
        ))}
        {!kinds.length && <p className="muted">No entry speaks of “{find}”.</p>}
      </div>
    </Modal>
  );
}
