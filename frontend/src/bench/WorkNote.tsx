import { api, dataOf, type Schemas } from "../api/client";

type Work = Schemas["WorkView"];

/** What a heavy entry is doing elsewhere, with a way to stop it and to begin again. */
export function WorkNote(props: { work: Work; group: string; onAsked: () => Promise<void> }) {
  const { work, group, onAsked } = props;
  const { stage } = work;
  const verb = group === "projections" ? "projecting" : "working";
  const ask = (what: "stop" | "again") => async () => {
    const path = { params: { path: { key: work.key } } };
    await dataOf<Work>(
      what === "stop" ? api.DELETE("/api/work/{key}", path) : api.POST("/api/work/{key}", path),
    );
    await onAsked();
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
