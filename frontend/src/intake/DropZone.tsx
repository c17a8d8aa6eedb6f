import "./dropzone.css";
import { Button, Progress } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, dataOf, type Schemas } from "../api/client";
import { TroubleNote } from "../ui/Trouble";
import { stopWork, type Work } from "../api/waiting";
import { pastedFile } from "./bringing";

/** From here on the file is being written to the disk. */
const NO_WAY_BACK = 0.99;

interface Props {
  busy: boolean;
  reading: Work | undefined;
  error: unknown;
  onFile: (source: File | string) => void;
}

/** Where a file is dropped, chosen or pasted, with the demo files beside it. */
export function DropZone({ busy, reading, error, onFile }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const demo = useQuery({
    queryKey: ["demo-files"],
    queryFn: () => dataOf<Schemas["DemoFiles"]>(api.GET("/api/demo-files")),
  });
  const take = (files: FileList | null) => {
    const file = files?.[0];
    if (file) onFile(file);
  };
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      const file = pastedFile(event.clipboardData);
      if (busy || !file) return;
      event.preventDefault();
      onFile(file);
    };
    document.addEventListener("paste", onPaste);
    return () => document.removeEventListener("paste", onPaste);
  }, [busy, onFile]);
  return (
    <>
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
        <h2>{busy ? "Reading the file…" : "Drop a table here, or paste one"}</h2>
        {reading ? (
          <div className="reading-file" role="status">
            <Progress
              percent={Math.round(reading.share * 100)}
              showInfo={false}
              size="small"
              strokeColor="var(--lagoon)"
            />
            <p>
              {reading.doing}, {Math.round(reading.share * 100)} %
            </p>
            {reading.share < NO_WAY_BACK ? (
              <Button onClick={() => void stopWork(reading.key)}>Stop reading it</Button>
            ) : (
              <p>It is written once, byte for byte; that cannot be stopped half way.</p>
            )}
          </div>
        ) : (
          <>
            <p>
              Text with any delimiter, a workbook, JSON, Parquet or a data package. Zembra reads it, says what
              it understood, and keeps it byte for byte: nothing you do later changes it.
            </p>
            <Button type="primary" size="large" loading={busy} onClick={() => input.current?.click()}>
              Choose a file
            </Button>
          </>
        )}
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
    </>
  );
}
