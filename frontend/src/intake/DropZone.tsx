import { Button } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, told, type Schemas } from "../api/client";
import { TroubleNote } from "../ui/Trouble";

interface Props {
  busy: boolean;
  error: unknown;
  onFile: (source: File | string) => void;
}

/** Where a file is dropped or chosen, with the demo files beside it. */
export function DropZone({ busy, error, onFile }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const demo = useQuery({
    queryKey: ["demo-files"],
    queryFn: () => told<Schemas["DemoFiles"]>(api.GET("/api/demo-files")),
  });
  const take = (files: FileList | null) => {
    const file = files?.[0];
    if (file) onFile(file);
  };
  return (
    <main className="bring">
      <TroubleNote error={error} />
      <div
        className={over ? "drop over" : "drop"}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          take(event.dataTransfer.files);
        }}
      >
        <h2>{busy ? "Reading the file…" : "Drop a table here"}</h2>
        <p>
          One column of dates, at least one of numbers. Zembra reads it, says what it understood, and keeps it
          byte for byte: nothing you do later changes it.
        </p>
        <Button type="primary" size="large" loading={busy} onClick={() => input.current?.click()}>
          Choose a file
        </Button>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="File to bring in"
          onChange={(event) => take(event.target.files)}
        />
      </div>
      <section className="demo-files">
        <h3>Or try a demo file of Saltmarch Ferries</h3>
        <ul>
          {demo.data?.files.map((file) => (
            <li key={file.name}>
              <button type="button" className="link" disabled={busy} onClick={() => onFile(file.name)}>
                {file.name}
              </button>
              <span className="muted">{file.about}</span>
            </li>
          ))}
        </ul>
      </section>
    </main>
  );
}
