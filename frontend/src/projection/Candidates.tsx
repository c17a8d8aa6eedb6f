import type { KeyboardEvent } from "react";
import type { Schemas } from "../api/client";
import { formatFixed, formatNumber, formatSigned } from "../ui/format";
import { rowKeys } from "../ui/rows";

type Judged = Schemas["JudgedView"];
type Candidate = Schemas["CandidateView"];

/** Best first; those without a score at the end. */
export function rank(candidates: Candidate[]): Candidate[] {
  return [...candidates].sort((a, b) => (a.mase ?? a.mae ?? Infinity) - (b.mase ?? b.mae ?? Infinity));
}

interface CandidatesProps {
  rows: Candidate[];
  levels: number[];
  current: string | undefined;
  beside: string | undefined;
  onCurrent: (key: string) => void;
  onBeside: (key: string | undefined) => void;
  onTake: (candidate: Candidate | undefined) => void;
}

/** Ranked; arrow keys walk the rows. */
export function Candidates({ rows, levels, current, beside, onCurrent, onBeside, onTake }: CandidatesProps) {
  const onKeyDown = (candidate: Candidate) => (event: KeyboardEvent<HTMLTableRowElement>) => {
    rowKeys(event, {
      Enter: () => onTake(candidate),
      " ": () => onBeside(beside === candidate.key ? undefined : candidate.key),
    });
  };
  return (
    <table className="candidates">
      <thead>
        <tr>
          <th>method</th>
          <th className="number">scaled error</th>
          <th className="number">error %</th>
          <th className="number">bias</th>
          {levels.map((level) => (
            <th key={level} className="number level">
              in {formatNumber(level)} %
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr
            key={row.key}
            tabIndex={0}
            className={row.key === current ? "at" : row.key === beside ? "beside" : undefined}
            aria-label={`${row.name}, scaled error ${formatNumber(row.mase)}. Enter takes it, Space lays it beside.`}
            onFocus={() => onCurrent(row.key)}
            onClick={() => onCurrent(row.key)}
            onDoubleClick={() => onTake(row)}
            onKeyDown={onKeyDown(row)}
          >
            <td>
              {row.name}
              {row.key === current && Object.keys(row.params).length > 0 && (
                <button type="button" className="link" onClick={() => onTake(row)}>
                  take it
                </button>
              )}
              {row.lead && row.key === current && <small>{row.lead}</small>}
              {row.refused && (
                <em title={row.refused}>{row.mase === null ? row.refused : "refused at some"}</em>
              )}
            </td>
            <td className="number">{row.done ? formatFixed(row.mase, 2) : "…"}</td>
            <td className="number">{formatFixed(row.wape, 1)}</td>
            <td className="number">{row.bias === null ? "—" : formatSigned(row.bias)}</td>
            {levels.map((level, n) => {
              const share = row.levels[n];
              const short = share !== undefined && share.inside < share.low;
              return (
                <td
                  key={level}
                  className={short ? "number attention" : "number"}
                  title={
                    share
                      ? `${share.inside} of ${row.points}; plain chance gives ${share.low} to ${share.high}; interval score ${formatNumber(share.score)}`
                      : undefined
                  }
                >
                  {share ? formatNumber(share.share, 0) : "—"}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface SeasonsProps {
  judged: Judged;
  current: string | undefined;
  beside: string | undefined;
  onCurrent: (key: string) => void;
  onBeside: (key: string | undefined) => void;
  onTake: (candidate: Candidate | undefined) => void;
}

export function Seasons({ judged, current, beside, onCurrent, onBeside, onTake }: SeasonsProps) {
  return (
    <table className="candidates">
      <thead>
        <tr>
          <th>length</th>
          <th className="number">strength</th>
          <th className="number">full cycles</th>
          <th className="number">scaled error with it</th>
        </tr>
      </thead>
      <tbody>
        {judged.seasons.map((season) => {
          const candidate = judged.candidates.find((each) => each.key === season.candidate);
          return (
            <tr
              key={season.name}
              tabIndex={candidate ? 0 : -1}
              className={candidate?.key === current ? "at" : candidate?.key === beside ? "beside" : undefined}
              onFocus={() => candidate && onCurrent(candidate.key)}
              onClick={() => candidate && onCurrent(candidate.key)}
              onKeyDown={(event) =>
                candidate &&
                rowKeys(event, {
                  Enter: () => onTake(candidate),
                  " ": () => onBeside(beside === candidate.key ? undefined : candidate.key),
                })
              }
            >
              <td>
                {season.name}
                {candidate && candidate.key === current && (
                  <button type="button" className="link" onClick={() => onTake(candidate)}>
                    take it
                  </button>
                )}
              </td>
              <td
                className="number"
                title={
                  season.chance === null
                    ? undefined
                    : `the chance of it without a season: ${formatNumber(season.chance)}`
                }
              >
                {formatFixed(season.strength, 2)}
              </td>
              <td className="number">
                {season.cycles === null ? "—" : formatNumber(season.cycles)}
                {season.length !== null && !candidate && <em className="attention"> too short</em>}
              </td>
              <td className="number">
                {candidate && !candidate.done ? "…" : formatFixed(candidate?.mase, 2)}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
