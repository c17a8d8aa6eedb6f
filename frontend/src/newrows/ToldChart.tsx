import type { Schemas } from "../api/client";
import { useLook } from "../app/look";
import { linearScale, lowerBound, niceRange, timeScale } from "../figure/scale";
import { SmallLimits } from "../projection/SmallLimits";
import { endName, EndNames, SmallChart } from "../projection/small";
import { FootTicks, ValueGrid } from "../ui/axes";
import { formatDate } from "../ui/format";
import { linePath } from "../ui/paths";
import { HappenedLine, parted } from "./HappenedLine";

type Told = Schemas["ToldSeries"];
type Said = Told["said"][number];

/** How many times what was projected is shown before it. */
const BEFORE = 1.1;

/** A series as first told and as told now, with what was projected over it. */
export function ToldChart({ told, from }: { told: Told; from: string }) {
  const { palette } = useLook();
  const firstTold = palette.series[6] ?? palette.wheat;
  const said = told.said.at(-1);
  const last = told.t[told.now.findLastIndex((amount) => amount !== null)] ?? told.t.at(-1) ?? 0;
  const first = said?.t[0] ?? firstChange(told) ?? last;
  const begin = Math.max(told.t[0] ?? first, first - Math.max((last - first) * BEFORE, 20 * step(told.t)));
  const low = lowerBound(told.t, begin);
  const t = told.t.slice(low, lowerBound(told.t, last + 1));
  const now = told.now.slice(low, low + t.length);
  const was = told.was.slice(low, low + t.length);
  const shown = said && upTo(said, last);
  const [finished, unfinished] = parted(t, now, told.unfinished);
  const every = [
    now,
    was,
    shown?.mean ?? [],
    ...(shown?.limits ?? []).flatMap((limits) => [limits.lower, limits.upper]),
  ]
    .flat()
    .filter((amount): amount is number => amount !== null);
  if (!every.length) return <p className="muted">{told.series} has no number to draw.</p>;
  const differs = was.map((amount, n) => (amount !== null && amount !== now[n] ? amount : null));
  const around = differs.map(
    (amount, n) => amount ?? (differs[n + 1] != null || differs[n - 1] != null ? (was[n] ?? null) : null),
  );
  return (
    <SmallChart
      title={`${told.series}: what was said, and what happened`}
      height={330}
      right={132}
      numbers={every}
      label={`${told.series}, as first told and as told now, with the projection as of ${formatDate(from)}`}
      draw={(room) => {
        const value = linearScale(niceRange(Math.min(...every), Math.max(...every)), [room.bottom, room.top]);
        const time = timeScale(t[0] ?? first, last, [room.left, room.right]);
        const known = time.toPixel(first);
        return (
          <>
            <ValueGrid scale={value} room={room} />
            <FootTicks scale={time} room={room} />
            {shown && (
              <SmallLimits
                t={shown.t}
                edges={shown.limits.map((limits) => [limits.lower, limits.upper])}
                time={time}
                value={value}
              />
            )}
            {said && (
              <>
                <line className="held" x1={known} x2={known} y1={room.top} y2={room.bottom} />
                <text x={known - 5} y={room.top + 9} textAnchor="end">
                  known until then
                </text>
              </>
            )}
            <HappenedLine t={t} finished={finished} unfinished={unfinished} time={time} value={value} />
            <path
              d={linePath(t, around, time, value)}
              fill="none"
              stroke={firstTold}
              strokeWidth={1.6}
              strokeDasharray="2 3"
            />
            {t.map((at, n) =>
              differs[n] === null || differs[n] === undefined ? null : (
                <circle
                  key={at}
                  cx={time.toPixel(at)}
                  cy={value.toPixel(differs[n] ?? 0)}
                  r={3}
                  fill={palette.paper}
                  stroke={firstTold}
                />
              ),
            )}
            {shown && (
              <path
                d={linePath(shown.t, shown.mean, time, value)}
                fill="none"
                stroke={palette.iris}
                strokeWidth={2}
                strokeDasharray="5 3"
              />
            )}
            <EndNames
              room={room}
              names={[
                ...endName("what happened", finished, value, palette.lagoon),
                ...(shown ? endName(`said on ${dayOf(from)}`, shown.mean, value, palette.iris) : []),
                ...(differs.some((amount) => amount !== null)
                  ? endName("as first told", differs, value, firstTold)
                  : []),
              ]}
            />
          </>
        );
      }}
    />
  );
}

/** A day without its year, for the end of a line. */
export function dayOf(date: string): string {
  return formatDate(date).replace(/ \d{4}$/, "");
}

function upTo(said: Said, last: number): Said {
  const end = lowerBound(said.t, last + 1);
  return {
    ...said,
    t: said.t.slice(0, end),
    mean: said.mean.slice(0, end),
    limits: said.limits.map((limits) => ({
      ...limits,
      lower: limits.lower.slice(0, end),
      upper: limits.upper.slice(0, end),
    })),
  };
}

function firstChange(told: Told): number | undefined {
  const n = told.now.findIndex((amount, place) => amount !== told.was[place]);
  return told.t[n];
}

function step(t: number[]): number {
  return t.length > 1 ? ((t.at(-1) ?? 0) - (t[0] ?? 0)) / (t.length - 1) : 0;
}
