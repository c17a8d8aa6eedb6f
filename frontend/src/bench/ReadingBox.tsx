import type { Figure } from "../api/client";
import { useLook } from "../app/look";
import { lineColour, seriesCount } from "../figure/frame";
import type { Box } from "../figure/scale";
import { formatNumber, formatPeriod } from "../ui/format";
import { readingsAt } from "./reading";

interface Props {
  figure: Figure;
  period: number;
  x: number;
  box: Box;
  width: number;
}

/** The upright rule at a period and what every line says there. */
export function ReadingBox({ figure, period, x, box, width }: Props) {
  const { palette } = useLook();
  const alone = seriesCount(figure) === 1;
  const readings = readingsAt(figure, period);
  const onLeft = x > width * 0.55;
  return (
    <>
      <div className="rule" style={{ left: x, top: box.top, height: box.bottom - box.top }} />
      <div
        className="reading"
        role="status"
        style={{ top: box.top + 4, ...(onLeft ? { right: width - x + 10 } : { left: x + 10 }) }}
      >
        <h4>{formatPeriod(period, figure.grain)}</h4>
        {readings.length === 0 && <p className="muted">not on the calendar</p>}
        {readings.map((reading) => (
          <div
            key={`${reading.line.series}${reading.line.entry}${reading.line.name}`}
            className="reading-row"
          >
            <i className="swatch" style={{ background: lineColour(reading.line, palette, alone) }} />
            <span>
              {reading.line.role === "series" || alone
                ? reading.line.name
                : `${reading.line.series}, ${reading.line.name}`}
            </span>
            <b>
              {formatNumber(
                figure.view === "before" && reading.line.role === "series" ? reading.before : reading.value,
              )}
            </b>
            {reading.condition && reading.condition !== "measured" && (
              <em>
                {reading.condition}
                {reading.received && reading.received !== "measured" ? `, came ${reading.received}` : ""}
              </em>
            )}
            {reading.limits.map((one) => (
              <em key={one.level}>
                {one.level} %: {formatNumber(one.lower)} to {formatNumber(one.upper)}
              </em>
            ))}
          </div>
        ))}
      </div>
    </>
  );
}
