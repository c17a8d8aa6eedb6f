import { useState } from "react";
import type { Schemas } from "../api/client";
import { formatLabel, formatNumber } from "../ui/format";
import { inWords, Scores } from "./Scores";
import { ToldChart } from "./ToldChart";

/** How the projection did on what came, and what becomes of the follow-up list. */
export function Happened({ view }: { view: Schemas["NewRowsView"] }) {
  const [series, setSeries] = useState<string>();
  const told = view.series.find((drawn) => drawn.series === series) ?? view.series[0];
  const points = view.scores[0]?.points ?? 0;
  return (
    <>
      {told && <ToldChart told={told} from={view.scored_as_of} />}
      <div className="happened">
        <div>
          <h2>How it did{points ? `, ${formatNumber(points)} ${view.periods}` : ""}</h2>
          {view.scores.length > 0 ? (
            <>
              <Scores scores={view.scores} chosen={told?.series} onChoose={setSeries} />
              <p className="muted small">{inWords(view.scores)}</p>
            </>
          ) : (
            <p className="muted">
              Nothing was projected for what came; a projection in the ledger is scored here next time.
            </p>
          )}
        </div>
        <div>
          <h2>Kept from last time</h2>
          {view.followups.length > 0 ? (
            <table className="told-table">
              <thead>
                <tr>
                  <th>follow-up</th>
                  <th>state</th>
                  <th>now</th>
                </tr>
              </thead>
              <tbody>
                {view.followups.slice(0, 60).map((item) => (
                  <tr key={`${item.series} ${item.period}`}>
                    <td>
                      {formatLabel(item.period)} · {item.series}
                      {item.note ? `, ${item.note}` : item.found_by.length ? `, ${item.found_by[0]}` : ""}
                    </td>
                    <td>{item.now === "new" ? "–" : item.state}</td>
                    <td className={item.now === "new" ? "attention" : undefined}>{item.now}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            <p className="muted">Nothing on the follow-up list is open.</p>
          )}
          <p className="muted small">
            Snapshots made before today stay as they were. Undo takes the rows out again.
          </p>
        </div>
      </div>
    </>
  );
}
