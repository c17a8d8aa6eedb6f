import { api, dataOf, type Schemas } from "../api/client";
import { formatNumber } from "../ui/format";

/** How far judging is, with a stop. */
export function UnderWay({ work, onAgain }: { work: Schemas["WorkView"]; onAgain: () => void }) {
  const params = { path: { key: work.key } };
  const stopped = work.stage === "stopped";
  return (
    <div className="judging-work" role="status">
      <progress value={work.share} max={1} aria-label="How far judging is" />
      <span className="muted">
        {stopped
          ? "stopped"
          : `${work.doing}, ${formatNumber(100 * work.share, 0)} %; each is fitted anew at each starting point`}
      </span>
      <button
        type="button"
        className="link"
        onClick={() =>
          void dataOf(
            stopped ? api.POST("/api/work/{key}", { params }) : api.DELETE("/api/work/{key}", { params }),
          ).then(onAgain)
        }
      >
        {stopped ? "judge all the same" : "stop"}
      </button>
    </div>
  );
}
