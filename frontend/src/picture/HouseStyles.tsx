import { Input, Select } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, dataOf, type Schemas } from "../api/client";
import { TroubleNote } from "../ui/Trouble";
import type { Picture } from "./edits";

interface Props {
  study: number;
  place: number;
  onUse: (picture: Picture, name: string) => void;
}

/** The dress of a picture kept for others, and that of others used for this one. */
export function HouseStyles({ study, place, onUse }: Props) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [trouble, setTrouble] = useState<unknown>();
  const query = useQuery({
    queryKey: ["styles"],
    queryFn: () => dataOf<Schemas["StyleList"]>(api.GET("/api/styles")),
  });
  const names = query.data?.names ?? [];
  const attempt = (work: Promise<unknown>) => void work.then(() => setTrouble(undefined)).catch(setTrouble);
  const keep = () => {
    const wanted = name.trim();
    if (!wanted) return;
    attempt(
      dataOf<Schemas["StyleList"]>(
        api.PUT("/api/styles", { body: { name: wanted, study_id: study, place } }),
      ).then((list) => {
        client.setQueryData(["styles"], list);
        setName("");
      }),
    );
  };
  const use = (wanted: string) =>
    attempt(
      dataOf<Schemas["StyledPicture"]>(
        api.POST("/api/styles/used", { body: { name: wanted, study_id: study, place } }),
      ).then(({ picture }) => onUse(picture, wanted)),
    );
  return (
    <div className="house-styles">
      {names.length > 0 && (
        <Select
          size="small"
          aria-label="Use a house style"
          placeholder="use a house style"
          value={null}
          options={names.map((name) => ({ value: name, label: name }))}
          onChange={(word: string | null) => word && use(word)}
        />
      )}
      <Input
        size="small"
        aria-label="Name of a new house style"
        placeholder="keep this dress as a house style"
        maxLength={120}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onPressEnter={keep}
      />
      <button type="button" className="link" disabled={!name.trim()} onClick={keep}>
        keep
      </button>
      <TroubleNote error={trouble} />
    </div>
  );
}
