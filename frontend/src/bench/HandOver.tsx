import { Button, Modal } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { TroubleNote } from "../ui/Trouble";
import { handOver, save } from "../ui/files";
import type { Bench, Schemas } from "../api/client";
import { useCatalogue } from "./LedgerPane";

interface Props {
  open: boolean;
  onClose: () => void;
  bench: Bench;
}

type File = Schemas["HandedFileView"];
const GROUPS = ["picture", "numbers", "account"] as const;
const ABOUT: Record<File["group"], string> = {
  picture: "The picture",
  numbers: "The numbers",
  account: "The account",
};

/** Picture, numbers, and the account of what was done. */
export function HandOver({ open, onClose, bench }: Props) {
  const [trouble, setTrouble] = useState<unknown>();
  const navigate = useNavigate();
  const { data: catalogue } = useCatalogue();
  const row = ({ name, about }: File) => (
    <li key={name}>
      <Button
        size="small"
        onClick={() => {
          setTrouble(undefined);
          handOver(bench.study.id, name).then(save).catch(setTrouble);
        }}
      >
        {name}
      </Button>
      <span>{about}</span>
    </li>
  );
  return (
    <Modal open={open} onCancel={onClose} footer={null} title="Hand over" width={720} style={{ top: 24 }}>
      <TroubleNote error={trouble} />
      <div className="handover">
        {GROUPS.map((group) => (
          <section key={group}>
            <h4>
              {ABOUT[group]}{" "}
              {group === "picture" && (
                <button
                  type="button"
                  className="link"
                  onClick={() => void navigate(`/studies/${bench.study.id}/picture`)}
                >
                  dress it first
                </button>
              )}
            </h4>
            <ul>{catalogue?.files.filter((file) => file.group === group && file.about).map(row)}</ul>
          </section>
        ))}
      </div>
    </Modal>
  );
}
