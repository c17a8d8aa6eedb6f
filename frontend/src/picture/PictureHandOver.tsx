import { Button } from "antd";
import { useState, type ReactNode } from "react";
import type { Schemas } from "../api/client";
import { stopWork } from "../api/waiting";
import { handOver, save } from "../ui/files";
import { TroubleNote } from "../ui/Trouble";
import { formatNumber } from "../ui/format";
import { Snapshots } from "./Snapshots";

interface Props {
  study: number;
  place: number;
}

/** What leaves Zembra: the picture, the numbers, and the account. */
export function PictureHandOver({ study, place }: Props) {
  const [trouble, setTrouble] = useState<unknown>();
  const [busy, setBusy] = useState<string>();
  const [done, setDone] = useState("");
  const [work, setWork] = useState<Schemas["WorkView"]>();
  const attempt = (label: string, work: () => Promise<void>) => () => {
    setTrouble(undefined);
    setBusy(label);
    setDone("");
    work()
      .catch(setTrouble)
      .finally(() => {
        setBusy(undefined);
        setWork(undefined);
      });
  };
  const file = (label: string, name: string, more: Record<string, number> = {}, main = false) => (
    <Button
      key={label}
      size="small"
      type={main ? "primary" : "default"}
      loading={busy === label}
      onClick={attempt(label, async () =>
        save(await handOver(study, name, { picture: place, ...more }, setWork)),
      )}
    >
      {label}
    </Button>
  );
  const copied = attempt("copy it", async () => {
    const { data } = await handOver(study, "picture.png", { picture: place, times: 2 });
    await navigator.clipboard.write([new ClipboardItem({ "image/png": data })]);
    setDone("The picture is on the clipboard.");
  });
  return (
    <div className="picture-handover" aria-label="Hand over">
      <Column title="The picture">
        {file("PNG", "picture.png", { times: 2 }, true)}
        {file("SVG", "picture.svg")}
        {file("PDF", "picture.pdf")}
        {file("slides, with a chart to edit", "slides.pptx")}
        {file("slide, as an image", "picture.pptx", { times: 3 })}
        {file("page", "picture.html")}
        {file("PNG, once", "picture.png", { times: 1 })}
        {file("PNG, three times", "picture.png", { times: 3 })}
        <Button size="small" loading={busy === "copy it"} onClick={copied}>
          copy it
        </Button>
      </Column>
      <Column title="The numbers">
        {file("workbook", "numbers.xlsx")}
        {file("points", "points.csv")}
        {file("lines", "lines.csv")}
        {file("Parquet", "points.parquet")}
      </Column>
      <Column title="The account">
        {file("PDF, a page or two", "account.pdf")}
        {file("note", "method-note.txt")}
        {file("everything, zipped", "everything.zip")}
      </Column>
      <Snapshots study={study} place={place} />
      <TroubleNote error={trouble} />
      {work && (
        <p className="muted small" role="status">
          {work.doing}, {formatNumber(100 * work.share, 0)} %{" "}
          <button type="button" className="link" onClick={() => void stopWork(work.key)}>
            stop
          </button>
        </p>
      )}
      {done && <p className="muted small">{done}</p>}
    </div>
  );
}

function Column({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div>
      <h2>{title}</h2>
      <div className="picture-buttons">{children}</div>
    </div>
  );
}
