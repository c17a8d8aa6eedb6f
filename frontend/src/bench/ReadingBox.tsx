import { useLook } from "../app/look";
import { colourOf, seriesAt, type Panel } from "../figure/frame";
import { strokeThrough, type Dot } from "../figure/runs";
import { lowerBound } from "../figure/scale";
import type { Figure, Series } from "../figure/types";
import { formatNumber, formatPeriod } from "../ui/format";
import { usePeriod } from "./pointer";
import { eventsAt, readingsAt } from "../figure/reading";

const MOST_READ = 14;

interface Props {
  figure: Figure;
  panels: Panel[];
  width: number;
  /** Height of the pointer in the chart, for the line that stands out of a crowd. */
  height: () => number | undefined;
}

/** The upright rule at the period pointed at, and what every line says there. */
export function ReadingBox({ figure, panels, width, height }: Props) {
  const { palette } = useLook();
  const period = usePeriod();
  const first = panels[0];
  const last = panels.at(-1);
  if (period === undefined || !first || !last) return null;
  const x = first.time.toPixel(period);
  const { left, right, top } = first.box;
  if (x < left - 1 || x > right + 1) return null;
  const readings = readingsAt(figure, period);
  const y = height();
  const nearest = y === undefined ? undefined : seriesAt(figure, panels, period, y);
  const crowd = readings.length > MOST_READ;
  const shown = crowd ? readings.filter((reading) => reading.name === nearest?.called) : readings;
  const onLeft = x > width * 0.55;
  return (
    <>
      {crowd && nearest && <Standing series={nearest} panels={panels} colour={palette.ember} width={width} />}
      <div className="rule" style={{ left: x, top, height: last.box.bottom - top }} />
      <div
        className="reading"
        role="status"
        style={{ top: top + 4, ...(onLeft ? { right: width - x + 10 } : { left: x + 10 }) }}
      >
        <h4>
          {formatPeriod(period, figure.grain)}
          {figure.scales[0]?.title && <small> {figure.scales[0].title}</small>}
        </h4>
        {eventsAt(figure, period).map((name) => (
          <p key={name} className="event">
            ⚑ {name}
          </p>
        ))}
        {readings.length === 0 && <p className="muted">not on the calendar</p>}
        {shown.map((reading) => (
          <div key={"id" in reading.of ? reading.of.id : reading.of.name} className="reading-row">
            <i className="swatch" style={{ background: colourOf(reading.of, figure, palette) }} />
            <span>{reading.name}</span>
            <b>{formatNumber(reading.value)}</b>
            {[...reading.remarks, ...reading.away].map((text) => (
              <em key={text}>{text}</em>
            ))}
            {reading.limits.map((limit) => (
              <em key={limit.name}>
                {limit.name}: {formatNumber(limit.lower)} to {formatNumber(limit.upper)}
              </em>
            ))}
          </div>
        ))}
        {crowd && <p className="muted">and {formatNumber(readings.length - shown.length)} more lines</p>}
      </div>
    </>
  );
}

/** The line pointed at, drawn over a crowd of others. */
function Standing({
  series,
  panels,
  colour,
  width,
}: {
  series: Series;
  panels: Panel[];
  colour: string;
  width: number;
}) {
  const panel = panels.find((candidate) => candidate.series.includes(series)) ?? panels[0];
  if (!panel) return null;
  const [from, to] = panel.time.domain;
  const dots: (Dot | undefined)[] = [];
  for (let n = lowerBound(series.t, from); n < series.t.length && (series.t[n] ?? 0) <= to; n++) {
    const v = series.v[n];
    dots.push(
      v === null || v === undefined
        ? undefined
        : [panel.time.toPixel(series.t[n] ?? 0), panel.value.toPixel(v)],
    );
  }
  return (
    <svg className="standing" width={width} height={panel.box.bottom + 4} aria-hidden>
      <path d={strokeThrough(dots)} fill="none" stroke={colour} strokeWidth={2} />
    </svg>
  );
}
