import { Button, Input } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, told, type Schemas } from "../api/client";
import { formatDate } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";

/** Keep a picture as it is now, and those that were kept before. */
export function Snapshots({ study, place }: { study: number; place: number }) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [trouble, setTrouble] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const path = { study_id: study };
  const query = useQuery({
    queryKey: ["snapshots", study],
    queryFn: () =>
      told<Schemas["SnapshotList"]>(api.GET("/api/studies/{study_id}/snapshots", { params: { path } })),
  });
  const list = query.data?.snapshots ?? [];
  const take = () => {
    setBusy(true);
    setTrouble(undefined);
    const body = { name: name.trim() || `snapshot ${list.length + 1}`, picture: place };
    told(api.POST("/api/studies/{study_id}/snapshots", { params: { path }, body }))
      .then(() => {
        setName("");
        return client.invalidateQueries({ queryKey: ["snapshots", study] });
      })
      .catch(setTrouble)
      .finally(() => setBusy(false));
  };
  return (
    <div className="snapshots">
      <h2>Keep as it is now</h2>
      <div className="picture-buttons">
        <Input
          size="small"
          aria-label="Name of the snapshot"
          placeholder={`snapshot ${list.length + 1}`}
          maxLength={120}
          value={name}
          onChange={(event) => setName(event.target.value)}
          onPressEnter={take}
        />
        <Button size="small" loading={busy} onClick={take}>
          snapshot
        </Button>
      </div>
      <TroubleNote error={trouble ?? query.error} />
      {list.length > 0 && (
        <p className="muted small">
          {list.map((one, n) => (
            <span key={one.id}>
              {n > 0 && ", "}
              <Link to={`/studies/${study}/snapshots/${one.id}`}>{one.name}</Link> ({formatDate(one.as_of)})
            </span>
          ))}
          . Later rows and edits do not change {list.length > 1 ? "them" : "it"}.
        </p>
      )}
    </div>
  );
}
