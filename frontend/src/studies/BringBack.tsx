import { Button } from "antd";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { begun } from "../api/waiting";

/** Bring back a study that was handed over whole. */
export function BringBack({ onTrouble }: { onTrouble: (trouble: unknown) => void }) {
  const navigate = useNavigate();
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const send = async (file: File) => {
    const form = new FormData();
    form.append("file", file);
    const study = await begun<Schemas["StudyView"]>(() =>
      fetch("/api/packages", { method: "POST", body: form }),
    );
    if (study) await navigate(`/studies/${study.id}`);
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".zip"
        hidden
        aria-label="A study that was handed over whole"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (!file) return;
          setBusy(true);
          send(file)
            .catch(onTrouble)
            .finally(() => setBusy(false));
        }}
      />
      <Button loading={busy} onClick={() => input.current?.click()}>
        Bring back a study
      </Button>
    </>
  );
}
