import { Segmented } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useLook } from "../app/look";
import { linearScale, niceRange, timeScale } from "../figure/scale";
import { formatNumber, monthName } from "../ui/format";
import { evenScale } from "./ByAhead";
import { FootTicks, ValueGrid } from "../ui/axes";
import { SmallChart } from "./small";

type Candidate = Schemas["CandidateView"];
type Left = Schemas["LeftView"];

const WEEK = ["Mo", "Tu", "We", "Th", "Fr", "Sa", "Su"];
const BINS = 17;

/** What a candidate left over: in time or as a distribution, and whether it still has a pattern. */
export function LeftOver({ judged, candidate }: { judged: Schemas["JudgedView"]; candidate: Candidate }) {
  const [how, setHow] = useState("in time");
  const [pattern, setPattern] = useState("correlation with itself");
  const { left } = candidate;
  if (!left) return null;
  const patterns = [
    "correlation with itself",
    ...(left.by_weekday.length ? ["by weekday"] : []),
    ...(left.by_month.length ? ["by month"] : []),
  ];
  return (
    <div className="pair">
      <div>
        <Segmented size="small" options={["in time", "as a distribution"]} value={how} onChange={setHow} />
        {how === "in time" ? <InTime left={left} /> : <AsDistribution left={left} />}
      </div>
      <div>
        <Segmented
          size="small"
          options={patterns}
          value={patterns.includes(pattern) ? pattern : (patterns[0] ?? "")}
          onChange={setPattern}
        />
        {pattern === "by weekday" ? (
          <Means title="What is left over, by weekday" means={left.by_weekday} names={WEEK} />
        ) : pattern === "by month" ? (
          <Means
            title="What is left over, by month"
            means={left.by_month}
            names={Array.from({ length: 12 }, (_, n) => monthName(n))}
          />
        ) : (
          <Correlation left={left} periods={judged.periods} />
        )}
      </div>
    </div>
  );
}

function InTime({ left }: { left: Left }) {
  const known = left.v.filter((amount): amount is number => amount !== null);
  const most = Math.max(...known.map(Math.abs), 1e-9);
  return (
    <SmallChart
      title="What is left over, in time"
      note="one step ahead"
      height={150}
      label="Errors one step ahead, in time"
      draw={(room) => {
        const value = linearScale(niceRange(-most, most, 4), [room.bottom, room.top]);
        const time = timeScale(left.t[0] ?? 0, left.t.at(-1) ?? 1, [room.left, room.right]);
        return (
          <>
            <ValueGrid scale={value} room={room} />
            <FootTicks scale={time} room={room} />
            {left.t.map((at, n) => {
              const share = left.v[n];
              return share === null || share === undefined ? null : (
                <circle
                  key={at}
                  className="left-dot"
                  cx={time.toPixel(at)}
                  cy={value.toPixel(share)}
                  r={1.6}
                />
              );
            })}
          </>
        );
      }}
    />
  );
}

function AsDistribution({ left }: { left: Left }) {
  const known = left.v.filter((amount): amount is number => amount !== null);
  const most = Math.max(...known.map(Math.abs), 1e-9);
  const counts = Array.from({ length: BINS }, () => 0);
  for (const rho of known) {
    const bin = Math.min(BINS - 1, Math.floor(((rho + most) / (2 * most)) * BINS));
    counts[bin] = (counts[bin] ?? 0) + 1;
  }
  return (
    <SmallChart
      title="What is left over, as a distribution"
      height={150}
      label="Errors one step ahead, as a distribution"
      draw={(room) => {
        const value = linearScale(niceRange(0, Math.max(...counts), 4), [room.bottom, room.top]);
        const across = linearScale(niceRange(-most, most, 4), [room.left, room.right]);
        const width = (across.toPixel(most) - across.toPixel(-most)) / BINS;
        return (
          <>
            <ValueGrid scale={value} room={room} />
            <FootTicks scale={across} room={room} />
            {counts.map((count, n) => (
              <rect
                key={n}
                className="left-bar"
                x={across.toPixel(-most) + n * width + 1}
                width={Math.max(1, width - 2)}
                y={value.toPixel(count)}
                height={room.bottom - value.toPixel(count)}
              />
            ))}
          </>
        );
      }}
    />
  );
}

function Correlation({ left, periods }: { left: Left; periods: string }) {
  const most = Math.max(0.3, ...left.rho.map(Math.abs));
  const note =
    left.box === null || left.chance === null
      ? ""
      : `Ljung–Box ${formatNumber(left.box, 1)} over ${left.lags}, p ${left.chance < 0.001 ? "< 0.001" : formatNumber(left.chance, 3)}`;
  return (
    <SmallChart
      title="Is anything left to learn from it?"
      note={note}
      height={150}
      label={`Correlation of what is left over with itself, by ${periods} apart. ${note}`}
      draw={(room) => {
        const value = linearScale(niceRange(-most, most, 4), [room.bottom, room.top]);
        const across = evenScale(left.rho.length, room);
        return (
          <>
            <ValueGrid scale={value} room={room} />
            <FootTicks scale={across} room={room} />
            {[left.bound, -left.bound].map((bound) => (
              <line
                key={bound}
                className="bound"
                x1={room.left}
                x2={room.right}
                y1={value.toPixel(bound)}
                y2={value.toPixel(bound)}
              />
            ))}
            {left.rho.map((rho, n) => (
              <rect
                key={n}
                className={Math.abs(rho) > left.bound ? "left-bar beyond" : "left-bar"}
                x={across.toPixel(n + 1) - 2}
                width={4}
                y={Math.min(value.toPixel(rho), value.toPixel(0))}
                height={Math.abs(value.toPixel(rho) - value.toPixel(0))}
              />
            ))}
          </>
        );
      }}
    />
  );
}

function Means({ title, means, names }: { title: string; means: (number | null)[]; names: string[] }) {
  const { palette } = useLook();
  const most = Math.max(...means.map((mean) => Math.abs(mean ?? 0)), 1e-9);
  return (
    <SmallChart
      title={title}
      note="means"
      height={150}
      label={title}
      draw={(room) => {
        const value = linearScale(niceRange(-most, most, 4), [room.bottom, room.top]);
        const step = (room.right - room.left) / names.length;
        return (
          <>
            <ValueGrid scale={value} room={room} />
            {names.map((name, n) => {
              const mean = means[n];
              const middle = room.left + (n + 0.5) * step;
              return (
                <g key={name}>
                  <text x={middle} y={room.bottom + 15} textAnchor="middle">
                    {name}
                  </text>
                  {mean !== null && mean !== undefined && (
                    <rect
                      x={middle - step * 0.3}
                      width={step * 0.6}
                      y={Math.min(value.toPixel(mean), value.toPixel(0))}
                      height={Math.abs(value.toPixel(mean) - value.toPixel(0))}
                      fill={palette.lagoon}
                      opacity={0.7}
                    />
                  )}
                </g>
              );
            })}
          </>
        );
      }}
    />
  );
}
