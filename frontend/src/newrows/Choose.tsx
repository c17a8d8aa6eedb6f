import { Button, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, dataOf, type Schemas } from "../api/client";
import { bringIn, pastedFile } from "../intake/bringing";
import { formatDate } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";

/** A file that was received before, one from the disk, or a paste. */
export function Choose({
  standing,
  file,
  onFile,
}: {
  standing: number;
  file: number | undefined;
  onFile: (dataset: number) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState<unknown>();
  const [reading, setReading] = useState<string>();
  const files = useQuery({
    queryKey: ["files"],
    queryFn: () => dataOf<Schemas["DatasetList"]>(api.GET("/api/datasets")),
  });
  const send = (chosen: File | undefined) => {
    if (!chosen) return;
    setTrouble(undefined);
    setReading("sending it");
    bringIn(chosen, ({ doing }) => setReading(doing))
      .then((understanding) => onFile(understanding.dataset.id))
      .catch(setTrouble)
      .finally(() => setReading(undefined));
  };
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      if (event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement) return;
      const pasted = pastedFile(event.clipboardData);
      if (!pasted) return;
      event.preventDefault();
      send(pasted);
    };
    document.addEventListener("paste", onPaste);
    return () => document.removeEventListener("paste", onPaste);
  });
  const others = (files.data?.datasets ?? []).filter((dataset) => dataset.id !== standing);
  return (
    <>
      <div className="came-choose">
        <Button size="small" onClick={() => input.current?.click()}>
          Choose a file, or paste rows
        </Button>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="File with new rows"
          onChange={(event) => send(event.target.files?.[0])}
        />
        {others.length > 0 && (
          <Select
            size="small"
            placeholder="or one already received"
            aria-label="A file already received"
            value={file ?? null}
            options={others.map((other) => ({
              value: other.id,
              label: `${other.name}, received ${formatDate(other.received_at)}`,
            }))}
            onChange={(chosen: number | null) => chosen && onFile(chosen)}
          />
        )}
      </div>
      {reading && <p className="muted">{reading}…</p>}
      <TroubleNote error={trouble} />
    </>
  );
}
