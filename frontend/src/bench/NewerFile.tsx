import { Button, Checkbox, Modal, Select } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, dataOf, type Bench, type Schemas } from "../api/client";
import { bringIn } from "../intake/bringing";
import { formatDate, formatLabel, formatNumber, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import { keepBench } from "./kept";

interface Props {
  bench: Bench;
  open: boolean;
  onClose: () => void;
}

/** Another file for the study: what it would change, and taking it as a revision. */
export function NewerFile({ bench, open, onClose }: Props) {
  const client = useQueryClient();
  const [dataset, setDataset] = useState<number>();
  const [waved, setWaved] = useState(false);
  const [trouble, setTrouble] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const [reading, setReading] = useState<string>();
  const { id, revision, file } = bench.study;
  const path = { study_id: id };
  const files = useQuery({
    queryKey: ["files"],
    enabled: open,
    queryFn: () => dataOf<Schemas["DatasetList"]>(api.GET("/api/datasets")),
  });
  const look = useQuery({
    queryKey: ["newer-file", id, revision, dataset],
    enabled: dataset !== undefined,
    retry: false,
    queryFn: () =>
      dataOf<Schemas["NewerFileView"]>(
        api.GET("/api/studies/{study_id}/file", {
          params: { path, query: { dataset_id: dataset ?? 0 } },
        }),
      ),
  });
  const attempt = (work: () => Promise<void>) => {
    setTrouble(undefined);
    setBusy(true);
    work()
      .catch(setTrouble)
      .finally(() => setBusy(false));
  };
  const send = (chosen: File | undefined) => {
    if (!chosen) return;
    attempt(async () => {
      const understanding = await bringIn(chosen, ({ stage }) => setReading(stage));
      setReading(undefined);
      await client.invalidateQueries({ queryKey: ["files"] });
      setWaved(false);
      setDataset(understanding.dataset.id);
    });
  };
  const take = () => {
    if (dataset === undefined) return;
    attempt(async () => {
      const answer = await dataOf<Bench>(
        api.PUT("/api/studies/{study_id}/file", {
          params: { path },
          body: { base: revision, dataset_id: dataset, as_of: null, waved },
        }),
      );
      await keepBench(client, id, answer);
      await client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "bench" });
      setDataset(undefined);
      onClose();
    });
  };
  const others = (files.data?.datasets ?? []).filter((dataset) => dataset.id !== bench.study.dataset_id);
  return (
    <Modal open={open} onCancel={onClose} footer={null} title="Put the study on another file" width={680}>
      <div className="newer-file">
        <p className="muted">
          It stands on <b>{file}</b>. The other file is read the same way and the whole ledger runs on it;
          Undo goes back to this one.
        </p>
        <div className="newer-choose">
          <Select
            className="newer-select"
            placeholder="a file already received"
            aria-label="A file already received"
            value={dataset ?? null}
            options={others.map((other) => ({
              value: other.id,
              label: `${other.name}, received ${formatDate(other.received_at)}`,
            }))}
            onChange={(chosen: number | null) => {
              setWaved(false);
              setDataset(chosen ?? undefined);
            }}
          />
          <label className="file-button">
            Bring in a file
            <input type="file" hidden onChange={(event) => send(event.target.files?.[0])} />
          </label>
        </div>
        {reading && <p className="muted">{reading}…</p>}
        <TroubleNote error={trouble ?? look.error} />
        {look.error && dataset !== undefined && (
          <p>
            <Link to={`/intake/${dataset}`}>Bring it in as a study of its own</Link>; this one stays as it is.
          </p>
        )}
        {look.data && dataset !== undefined && (
          <>
            <Changes look={look.data} />
            {look.data.questions.length > 0 && (
              <div className="newer-questions">
                <h4>Open questions about this file</h4>
                <ul>
                  {look.data.questions.map((question) => (
                    <li key={question.title}>
                      <b>{question.title}</b> {question.text}
                    </li>
                  ))}
                </ul>
                <Checkbox checked={waved} onChange={(event) => setWaved(event.target.checked)}>
                  Wave them through; they stand in the method note
                </Checkbox>
              </div>
            )}
            <div className="newer-foot">
              <span className="muted">As of {formatDate(look.data.as_of)} then.</span>
              <Button
                type="primary"
                loading={busy}
                disabled={look.data.questions.length > 0 && !waved}
                onClick={take}
              >
                Put the study on {look.data.file}
              </Button>
            </div>
          </>
        )}
      </div>
    </Modal>
  );
}

function Changes({ look }: { look: Schemas["NewerFileView"] }) {
  return (
    <>
      <table className="newer-table">
        <thead>
          <tr>
            <th>Series</th>
            <th>Now</th>
            <th>Then</th>
            <th className="number">New</th>
            <th className="number">Changed</th>
            <th className="number">Gone</th>
          </tr>
        </thead>
        <tbody>
          {look.series.slice(0, 30).map((change) => (
            <tr key={change.series}>
              <td>{change.series}</td>
              <td>
                {change.first ? `${formatLabel(change.first)} to ${formatLabel(change.last)}` : "no number"}
              </td>
              <td>
                {change.first_then
                  ? `${formatLabel(change.first_then)} to ${formatLabel(change.last_then)}`
                  : "no number"}
              </td>
              <td className="number">{formatNumber(change.added)}</td>
              <td className={change.changed ? "number attention" : "number"}>
                {formatNumber(change.changed)}
              </td>
              <td className={change.gone ? "number attention" : "number"}>{formatNumber(change.gone)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {look.series.length > 30 && (
        <p className="muted">and {plural(look.series.length - 30, "more series", "more series")}</p>
      )}
      {look.new_series.length > 0 && (
        <p>Only in the other file: {look.new_series.slice(0, 12).join(", ")}.</p>
      )}
      {look.lost_series.length > 0 && (
        <p className="attention">Not in the other file: {look.lost_series.slice(0, 12).join(", ")}.</p>
      )}
      {look.misfits.length > 0 && (
        <>
          <h4>Entries that no longer fit; they stay, and can be mended on the bench</h4>
          <ul>
            {look.misfits.map((misfit) => (
              <li key={misfit}>{misfit}</li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
