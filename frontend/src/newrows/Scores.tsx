import type { Schemas } from "../api/client";
import { formatNumber, formatSigned } from "../ui/format";

type Score = Schemas["ScoreView"];

/** How projections did on what happened, a row a series. */
export function Scores({
  scores,
  chosen,
  onChoose,
}: {
  scores: Score[];
  chosen?: string | undefined;
  onChoose?: (series: string) => void;
}) {
  const levels = scores[0]?.inside.map(([level]) => Number(level)) ?? [];
  return (
    <table className="told-table">
      <thead>
        <tr>
          <th>series</th>
          <th className="number">scaled error</th>
          <th className="number">last season’s</th>
          <th className="number">bias</th>
          {levels.map((level) => (
            <th key={level} className="number">
              in {level} %
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {scores.map((score) => (
          <tr key={score.series} className={score.series === chosen ? "chosen" : undefined}>
            <td>
              {onChoose ? (
                <button type="button" className="link" onClick={() => onChoose(score.series)}>
                  {score.series}
                </button>
              ) : (
                score.series
              )}
            </td>
            <td className={better(score) ? "number" : "number attention"}>{rounded(score.error)}</td>
            <td className="number">{rounded(score.naive)}</td>
            <td className="number">
              {score.bias === null ? "–" : formatSigned(Number(score.bias.toPrecision(3)))}
            </td>
            {score.inside.map(([level, many, chance]) => (
              <td
                key={String(level)}
                className={Number(chance) < 5 ? "number attention" : "number"}
                title={`Of limits that are right, so few or fewer lie inside with a chance of ${formatNumber(Number(Number(chance).toPrecision(2)))} %`}
              >
                {String(many)} of {score.points}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What the table says in words. */
export function inWords(scores: Score[]): string {
  const worse = scores.filter((score) => !better(score)).map((score) => score.series);
  const low = scores
    .filter((score) => score.inside.some(([, , chance]) => Number(chance) < 5))
    .map((score) => score.series);
  return [
    worse.length
      ? `Worse than the last season coming again: ${worse.join(", ")}.`
      : "Better than the last season coming again, for every series.",
    low.length
      ? `Limits held less than chance allows: ${low.join(", ")}.`
      : "Limits held as often as they say, but for chance.",
    "1.00 is the usual step of a season; a bias above zero says that too little was projected.",
  ].join(" ");
}

function better(score: Score): boolean {
  return score.error === null || score.naive === null || score.error <= score.naive;
}

function rounded(amount: number | null): string {
  return amount === null ? "–" : amount.toFixed(2);
}
