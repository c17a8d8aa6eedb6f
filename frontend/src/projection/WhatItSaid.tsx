import type { Schemas } from "../api/client";
import { useLook } from "../app/look";
import { linearScale, niceRange, timeScale, lowerBound } from "../figure/scale";
import { formatLabel } from "../ui/format";
import { FootTicks, ValueGrid } from "../ui/axes";
import { linePath } from "../ui/paths";
import { SmallLimits } from "./SmallLimits";
import { endName, EndNames, SmallChart } from "./small";

type Judged = Schemas["JudgedView"];
type Candidate = Schemas["CandidateView"];

/** How many times what is held back is shown before it. */
const BEFORE = 3.2;

interface Props {
  judged: Judged;
  candidate: Candidate;
  beside: Candidate | undefined;
  start: number;
  onStart: (start: number) => void;
}

/** An earlier projection over what happened; the starting points are walked. */
export function WhatItSaid({ judged, candidate, beside, start, onStart }: Props) {
  const { palette } = useLook();
  const from = judged.starts[start];
  if (!from) return null;
  const said = candidate.said[start] ?? undefined;
  const other = beside?.said[start] ?? undefined;
  const first = from.t[0] ?? 0;
  const last = from.t.at(-1) ?? first;
  const low = lowerBound(judged.t, first - (last - first) * BEFORE);
  const high = lowerBound(judged.t, last + 1);
  const t = judged.t.slice(low, high);
  const v = judged.v.slice(low, high);
  const every = [v, from.actual, said?.mean ?? [], ...(said?.edges.flat() ?? []), other?.mean ?? []]
    .flat()
    .filter((amount): amount is number => amount !== null);
  return (
    <div className="what-it-said">
      <div className="starts" role="group" aria-label="Starting points">
        <span className="muted">starting point</span>
        {judged.starts.map((stretch, n) => (
          <button
            key={stretch.label}
            type="button"
            className={n === start ? "at" : undefined}
            aria-pressed={n === start}
            aria-label={formatLabel(stretch.label)}
            title={formatLabel(stretch.label)}
            onClick={() => onStart(n)}
            onKeyDown={(event) => {
              const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
              if (!by) return;
              const next = Math.max(0, Math.min(judged.starts.length - 1, n + by));
              onStart(next);
              (
                event.currentTarget.parentElement?.querySelectorAll("button")[next] as HTMLElement | undefined
              )?.focus();
              event.preventDefault();
            }}
          />
        ))}
        <b>{formatLabel(from.label)}</b>
      </div>
      <SmallChart
        title="What it would have said, and what happened"
        height={292}
        right={118}
        numbers={every}
        label={`${candidate.name}, held back from ${formatLabel(from.label)}`}
        draw={(room) => {
          const range = niceRange(Math.min(...every), Math.max(...every));
          const value = linearScale(range, [room.bottom, room.top]);
          const time = timeScale(t[0] ?? first, last, [room.left, room.right]);
          const held = time.toPixel(first);
          return (
            <>
              <ValueGrid scale={value} room={room} />
              <FootTicks scale={time} room={room} />
              {said && <SmallLimits t={from.t} edges={said.edges} time={time} value={value} />}
              <line className="held" x1={held} x2={held} y1={room.top} y2={room.bottom} />
              <text x={held + 5} y={room.top + 9}>
                held back from here
              </text>
              <path d={linePath(t, v, time, value)} fill="none" stroke={palette.lagoon} strokeWidth={1.7} />
              {other && (
                <path
                  d={linePath(from.t, other.mean, time, value)}
                  fill="none"
                  stroke={palette.muted}
                  strokeWidth={1.7}
                  strokeDasharray="2 3"
                />
              )}
              {said && (
                <path
                  d={linePath(from.t, said.mean, time, value)}
                  fill="none"
                  stroke={palette.iris}
                  strokeWidth={2}
                  strokeDasharray="5 3"
                />
              )}
              <EndNames
                room={room}
                names={[
                  ...endName("what happened", from.actual, value, palette.lagoon),
                  ...endName("projection", said?.mean, value, palette.iris),
                  ...(beside ? endName(beside.name, other?.mean, value, palette.muted) : []),
                ]}
              />
              {!said && (
                <text x={held + 5} y={room.top + 28} className="attention">
                  {candidate.done ? "it refused here" : "not judged yet"}
                </text>
              )}
            </>
          );
        }}
      />
    </div>
  );
}
