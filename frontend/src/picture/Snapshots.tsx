import { Button, Input } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, dataOf, type Schemas } from "../api/client";
import { post, waited } from "../api/waiting";
import { formatDate } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";

type Card = Schemas["SnapshotCard"];

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
      dataOf<Schemas["SnapshotList"]>(api.GET("/api/studies/{study_id}/snapshots", { params: { path } })),
  });
  const every = query.data?.snapshots ?? [];
  const list = every.filter((card) => !card.removed);
  const removed = every.filter((snapshot) => snapshot.removed);
  const take = () => {
    setBusy(true);
    setTrouble(undefined);
    const body = { name: name.trim() || `snapshot ${every.length + 1}`, picture: place };
    waited(
      () => post(`/api/studies/${study}/snapshots`, body),
      (answer) => answer.json() as Promise<Card>,
    )
      .then(() => {
        setName("");
        return client.invalidateQueries({ queryKey: ["snapshots", study] });
      })
      .catch(setTrouble)
      .finally(() => setBusy(false));
  };
  const bringBack = (card: Card) => {
    const at = { params: { path: { ...path, snapshot_id: card.id } } };
    dataOf(api.POST("/api/studies/{study_id}/snapshots/{snapshot_id}/restore", at))
      .then(() => client.invalidateQueries({ queryKey: ["snapshots", study] }))
      .catch(setTrouble);
  };
  return (
    <div className="snapshots">
      <h2>Keep as it is now</h2>
      <div className="picture-buttons">
        <Input
          size="small"
          aria-label="Name of the snapshot"
          placeholder={`snapshot ${every.length + 1}`}
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
          {list.map((card, n) => (
            <span key={card.id}>
              {n > 0 && ", "}
              <Link to={`/studies/${study}/snapshots/${card.id}`}>{card.name}</Link> ({formatDate(card.as_of)}
              )
            </span>
          ))}
          . Later rows and edits do not change {list.length > 1 ? "them" : "it"}.
        </p>
      )}
      {removed.length > 0 && (
        <p className="muted small">
          Taken off:{" "}
          {removed.map((card, n) => (
            <span key={card.id}>
              {n > 0 && ", "}
              {card.name}{" "}
              <button type="button" className="link" onClick={() => bringBack(card)}>
                bring back
              </button>
            </span>
          ))}
        </p>
      )}
    </div>
  );
}
