import type { Schemas } from "../api/client";
import { stopWork } from "../api/waiting";

type Work = Schemas["WorkView"];

interface Props {
  work: Work;
  /** What it is the progress of. */
  label: string;
  more?: string;
  onStopped: () => void;
}

/** How far work is that is under way, and the way to stop it. */
export function WorkLine({ work, label, more = "", onStopped }: Props) {
  return (
    <>
      <progress value={work.share} max={1} aria-label={label} />
      <p className="muted small" role="status">
        {work.doing}.{more}{" "}
        <button type="button" className="link" onClick={() => void stopWork(work.key).then(onStopped)}>
          stop
        </button>
      </p>
    </>
  );
}

export function underWay(work: Work | null | undefined): boolean {
  return work?.stage === "working" || work?.stage === "waiting";
}
