import { Button } from "antd";
import { Link } from "react-router";
import type { Bench } from "../api/client";
import { useKey } from "../app/keys";
import { TopBar } from "../app/TopBar";
import type { BenchHandle } from "./useBench";
import { ViewSwitch } from "./ViewSwitch";

interface Props {
  id: number;
  at: "projection" | "picture";
  handle: BenchHandle;
  kept: Bench;
}

/** The top of a view of a study beside the bench: its name, what is kept, undo and redo. */
export function StudyTop({ id, at, handle, kept }: Props) {
  useKey("mod+z", () => void handle.undo(), [handle]);
  useKey("mod+shift+z,mod+y", () => void handle.redo(), [handle]);
  return (
    <TopBar
      actions={
        <>
          <ViewSwitch id={id} at={at} />
          <Button disabled={!kept.study.can_undo} onClick={() => void handle.undo()}>
            Undo
          </Button>
          <Button disabled={!kept.study.can_redo} onClick={() => void handle.redo()}>
            Redo
          </Button>
        </>
      }
    >
      <Link to="/">Studies</Link> <span className="muted">/</span>{" "}
      <h1 className="study-name">{kept.study.name}</h1>
      <span className="kept" role="status">
        {handle.saving
          ? "keeping…"
          : `kept · revision ${kept.study.revision}${kept.study.who && `, by ${kept.study.who}`}`}
      </span>
    </TopBar>
  );
}
