import { api, told, type Schemas } from "../api/client";
import { useState } from "react";

type Work = Schemas["WorkView"];

/** What a heavy entry is doing elsewhere, with a way to stop it and to begin again. */
export function WorkNote({ work, group }: { work: Work; group: string }) {
  // what was asked of just this work, until the bench tells how it stands
  const [asked, setAsked] = useState<{ of: Work; stage: Work["stage"] }>();
  const stage = asked?.of === work ? asked.stage : work.stage;
  const verb = group === "projections" ? "projecting" : "working";
  const ask = (what: "stop" | "again") => async () => {
    const path = { params: { path: { key: work.key } } };
    const now = await told<Work>(
      what === "stop" ? api.DELETE("/api/work/{key}", path) : api.POST("/api/work/{key}", path),
    );
    setAsked({ of: work, stage: now.stage });
  };
  const over = stage === "stopped" || stage === "failed";
  return (
    <p className="entry-work" role="status">
      {over ? (
        <>
          {stage === "stopped" ? "Stopped." : (work.failure ?? "It failed.")}{" "}
          <button type="button" className="link" onClick={() => void ask("again")()}>
            Begin again
          </button>
        </>
      ) : (
        <>
          <span className="pulse" aria-hidden /> {verb}
          {work.share > 0 ? ` ${Math.round(work.share * 100)} %` : ""}…{" "}
          <button type="button" className="link" onClick={() => void ask("stop")()}>
            stop
          </button>
        </>
      )}
    </p>
  );
}
