import { Modal, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, dataOf, type Bench, type Schemas } from "../api/client";
import { TroubleNote } from "../ui/Trouble";

interface Props {
  study: Schemas["StudyView"];
  onClose: () => void;
}

/** A copy of a study in which other columns, or other series of the file, stand for its own. */
export function CopyForColumns({ study, onClose }: Props) {
  const navigate = useNavigate();
  const [names, setNames] = useState<Record<string, string>>({});
  const [trouble, setTrouble] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const params = { path: { study_id: study.id } };
  const bench = useQuery({
    queryKey: ["bench", study.id, "columns"],
    queryFn: () => dataOf<Bench>(api.GET("/api/studies/{study_id}", { params })),
  });
  const options = bench.data?.options;
  const lines = options?.lines ?? [];
  const others = [...new Set([...(options?.series ?? []), ...(options?.other_columns ?? [])])];
  const taken = lines.map((line) => names[line] ?? line);
  const changed = lines.some((line) => (names[line] ?? line) !== line);
  const twice = taken.find((name, n) => taken.indexOf(name) !== n);
  const copy = () => {
    setBusy(true);
    setTrouble(undefined);
    dataOf<Schemas["StudyView"]>(api.POST("/api/studies/{study_id}/copy", { params, body: { names } }))
      .then((made) => navigate(`/studies/${made.id}`))
      .catch(setTrouble)
      .finally(() => setBusy(false));
  };
  return (
    <Modal
      open
      title="Copy it for other columns"
      okText="Copy"
      cancelText="Leave it"
      okButtonProps={{ disabled: !changed || twice !== undefined, loading: busy }}
      onOk={copy}
      onCancel={onClose}
    >
      <p className="muted">
        The copy does what “{study.name}” does, for what you choose here. Its ledger, dress and house style
        stay; titles take the new names.
      </p>
      <TroubleNote error={trouble ?? bench.error} />
      {bench.isPending && <p className="muted">Reading the study…</p>}
      {lines.length > 0 && others.length <= lines.length && (
        <p className="notice">{study.file} has no other column of numbers, and no other series.</p>
      )}
      <table className="copy-names">
        <tbody>
          {lines.map((line) => (
            <tr key={line}>
              <th scope="row">{line}</th>
              <td>becomes</td>
              <td>
                <Select
                  showSearch
                  aria-label={`What stands for ${line}`}
                  value={names[line] ?? line}
                  options={others.map((value) => ({ value, label: value }))}
                  onChange={(name: string) => setNames((now) => ({ ...now, [line]: name }))}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {twice !== undefined && <p className="notice">“{twice}” is chosen twice: each may stand for one.</p>}
    </Modal>
  );
}
