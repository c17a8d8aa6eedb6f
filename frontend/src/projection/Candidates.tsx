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
  onTake: (one: Candidate | undefined) => void;
}

/** Ranked; arrow keys walk the rows. */
export function Candidates({ rows, levels, current, beside, onCurrent, onBeside, onTake }: CandidatesProps) {
  const onKeyDown = (one: Candidate) => (event: KeyboardEvent<HTMLTableRowElement>) => {
    rowKeys(event, {
      Enter: () => onTake(one),
      " ": () => onBeside(beside === one.key ? undefined : one.key),
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
        {rows.map((one) => (
          <tr
            key={one.key}
            tabIndex={0}
            className={one.key === current ? "at" : one.key === beside ? "beside" : undefined}
            aria-label={`${one.name}, scaled error ${formatNumber(one.mase)}. Enter takes it, Space lays it beside.`}
            onFocus={() => onCurrent(one.key)}
            onClick={() => onCurrent(one.key)}
            onDoubleClick={() => onTake(one)}
            onKeyDown={onKeyDown(one)}
          >
            <td>
              {one.name}
              {one.key === current && Object.keys(one.params).length > 0 && (
                <button type="button" className="link" onClick={() => onTake(one)}>
                  take it
                </button>
              )}
              {one.refused && (
                <em title={one.refused}>{one.mase === null ? one.refused : "refused at some"}</em>
              )}
            </td>
            <td className="number">{one.done ? formatFixed(one.mase, 2) : "…"}</td>
            <td className="number">{formatFixed(one.wape, 1)}</td>
            <td className="number">{one.bias === null ? "—" : formatSigned(one.bias)}</td>
            {levels.map((level, n) => {
              const share = one.levels[n];
              const short = share !== undefined && share.inside < share.low;
              return (
                <td
                  key={level}
                  className={short ? "number attention" : "number"}
                  title={
                    share
                      ? `${share.inside} of ${one.points}; plain chance gives ${share.low} to ${share.high}; interval score ${formatNumber(share.score)}`
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
  onTake: (one: Candidate | undefined) => void;
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
        {judged.seasons.map((one) => {
          const candidate = judged.candidates.find((each) => each.key === one.candidate);
          return (
            <tr
              key={one.name}
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
                {one.name}
                {candidate && candidate.key === current && (
                  <button type="button" className="link" onClick={() => onTake(candidate)}>
                    take it
                  </button>
                )}
              </td>
              <td
                className="number"
                title={
                  one.chance === null
                    ? undefined
                    : `the chance of it without a season: ${formatNumber(one.chance)}`
                }
              >
                {formatFixed(one.strength, 2)}
              </td>
              <td className="number">
                {one.cycles === null ? "—" : formatNumber(one.cycles)}
                {one.length !== null && !candidate && <em className="attention"> too short</em>}
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
