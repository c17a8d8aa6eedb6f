import type { Schemas } from "../api/client";
import { useLook } from "../app/look";
import { strokeThrough, type Dot } from "../figure/runs";
import { linearScale, niceRange, type Scale } from "../figure/scale";
import { formatNumber } from "../ui/format";
import { FootTicks, ValueGrid, type Room } from "../ui/axes";
import { EndNames, SmallChart } from "./small";

type Judged = Schemas["JudgedView"];
type Candidate = Schemas["CandidateView"];

interface Props {
  judged: Judged;
  candidate: Candidate;
  beside: Candidate | undefined;
}

/** Error and share inside the limits, by how far ahead. */
export function ByAhead({ judged, candidate, beside }: Props) {
  const { palette } = useLook();
  const rows = candidate.by_ahead;
  const most = rows.at(-1)?.ahead ?? 1;
  const plain = judged.candidates.find(
    (other) => other.key === "method last-season" && other.key !== candidate.key,
  );
  const lines = [
    { of: plain, colour: palette.muted, width: 1.2 },
    { of: beside, colour: palette.iris, width: 1.5 },
    { of: candidate, colour: palette.lagoon, width: 2.2 },
  ].flatMap(({ of, ...look }) => (of?.by_ahead.length ? [{ of, ...look }] : []));
  const errors = lines.flatMap(({ of }) => of.by_ahead.map((row) => row.error));
  const across = (room: Room) => evenScale(most, room);
  return (
    <div className="pair">
      <SmallChart
        title={`Scaled error by ${judged.periods} ahead`}
        height={160}
        right={112}
        label={`Scaled error of ${candidate.name} by ${judged.periods} ahead`}
        draw={(room) => {
          const value = linearScale(niceRange(0, Math.max(...errors, 0.1), 4), [room.bottom, room.top]);
          const time = across(room);
          return (
            <>
              <ValueGrid scale={value} room={room} />
              <FootTicks scale={time} room={room} />
              {lines.map(({ of, colour, width }) => (
                <path
                  key={of.key}
                  d={strokeThrough(
                    of.by_ahead.map((row): Dot => [time.toPixel(row.ahead), value.toPixel(row.error)]),
                  )}
                  fill="none"
                  stroke={colour}
                  strokeWidth={width}
                />
              ))}
              <EndNames
                room={room}
                names={lines.map(({ of, colour }) => ({
                  name: of.name,
                  colour,
                  y: value.toPixel(of.by_ahead.at(-1)?.error ?? 0),
                }))}
              />
            </>
          );
        }}
      />
      <SmallChart
        title={`Share inside the limits, by ${judged.periods} ahead`}
        height={160}
        right={56}
        label={`Share inside the limits of ${candidate.name} by ${judged.periods} ahead`}
        draw={(room) => {
          const lowest = Math.min(0.5, ...rows.flatMap((row) => row.inside));
          const value = linearScale({ min: Math.floor(lowest * 5) / 5, max: 1, step: 0.2 }, [
            room.bottom,
            room.top,
          ]);
          const time = across(room);
          return (
            <>
              <ValueGrid scale={value} room={room} tell={(tick) => `${formatNumber(100 * tick.at, 0)} %`} />
              <FootTicks scale={time} room={room} />
              {judged.levels.map((level, n) => {
                const colour = n === judged.levels.length - 1 ? palette.lagoon : palette.iris;
                return (
                  <g key={level}>
                    <line
                      className="claim"
                      x1={room.left}
                      x2={room.right}
                      y1={value.toPixel(level / 100)}
                      y2={value.toPixel(level / 100)}
                      style={{ stroke: colour }}
                    />
                    <path
                      d={strokeThrough(
                        rows.map((row): Dot => [time.toPixel(row.ahead), value.toPixel(row.inside[n] ?? 0)]),
                      )}
                      fill="none"
                      stroke={colour}
                      strokeWidth={1.7}
                    />
                    <text x={room.right + 6} y={value.toPixel(level / 100) + 4} style={{ fill: colour }}>
                      {formatNumber(level)} %
                    </text>
                  </g>
                );
              })}
            </>
          );
        }}
      />
    </div>
  );
}

/** Whole numbers of periods from 1 on. */
export function evenScale(most: number, room: Room): Scale {
  const step = most <= 14 ? Math.max(1, Math.round(most / 4)) : most <= 40 ? 7 : Math.ceil(most / 5);
  const scale = linearScale({ min: 1, max: Math.max(2, most), step }, [room.left, room.right]);
  const ticks = [];
  for (let at = step; at <= most; at += step) ticks.push({ at, label: String(at), strong: false });
  return { ...scale, ticks };
}
