import { Button } from "antd";
import { useQuery } from "@tanstack/react-query";
import { api, dataOf, type Schemas } from "../api/client";
import { formatLabel, formatNumber, plural } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";
import type { Stretch } from "./ConditionStrip";

interface Props {
  studyId: number;
  revision: number;
  stretch: Stretch;
  onOffer: (offer: Schemas["OfferView"]) => void;
  onClose: () => void;
  /** Put the first of the periods on the follow-up list. */
  onAsk: (period: string) => void;
}

/** A stretch of the condition strip explained: its cells, why they are what they are, and what can be done. */
export function StretchCard({ studyId, revision, stretch, onOffer, onClose, onAsk }: Props) {
  const query = useQuery({
    queryKey: ["stretch", studyId, revision, stretch.series, stretch.at, stretch.count],
    queryFn: () =>
      dataOf<Schemas["StretchView"]>(
        api.GET("/api/studies/{study_id}/stretch", {
          params: {
            path: { study_id: studyId },
            query: { series: stretch.series, start: stretch.at, count: Math.min(stretch.count, 2000) },
          },
        }),
      ),
  });
  const told_ = query.data;
  const left = Math.max(8, Math.min(stretch.x - 60, 480));
  return (
    <div
      className="stretch"
      role="dialog"
      aria-label={`${stretch.series}, ${stretch.state}`}
      style={{ left }}
      tabIndex={-1}
      ref={(element) => element?.focus()}
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      <header>
        <h4>
          {stretch.series}: {told_?.title.split(" to ").map(formatLabel).join(" to ")}
        </h4>
        <span className="muted">
          {plural(stretch.count, "period")} {stretch.state}
        </span>
        <button type="button" className="quiet" aria-label="Put this away" onClick={onClose}>
          ×
        </button>
      </header>
      <TroubleNote error={query.error} />
      <div className="stretch-rows">
        <table>
          <thead>
            <tr>
              <th>Period</th>
              <th>Row</th>
              <th>Cell</th>
              <th className="number">Now</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            {told_?.rows.map((row) => (
              <tr key={row.period}>
                <td>{formatLabel(row.period)}</td>
                <td>{row.row ?? "no row"}</td>
                <td>{row.raw ? `“${row.raw}”` : row.row === null ? "" : "empty"}</td>
                <td className="number">{formatNumber(row.value)}</td>
                <td className="why">{row.reason || `came ${row.received}`}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {told_ && told_.rows.length < stretch.count && (
          <p className="muted">The first {told_.rows.length}; the Values tab has them all.</p>
        )}
      </div>
      {told_?.rows[0] && (
        <footer>
          <Button size="small" onClick={() => onAsk(told_.rows[0]?.period ?? "")}>
            Ask about {stretch.count > 1 ? formatLabel(told_.rows[0].period) : "this"}
          </Button>
        </footer>
      )}
      {Boolean(told_?.offers.length) && (
        <footer>
          <span className="muted">For just {stretch.count > 1 ? "these" : "this one"}:</span>
          {told_?.offers.map((offer) => (
            <Button key={offer.action} size="small" title={offer.why} onClick={() => onOffer(offer)}>
              {offer.action}
            </Button>
          ))}
        </footer>
      )}
    </div>
  );
}
