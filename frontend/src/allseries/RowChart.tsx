import type { Schemas } from "../api/client";
import { useLook } from "../app/look";
import { linearScale } from "../figure/scale";
import { areaPath, linePath } from "../ui/paths";

const WIDTH = 160;
const HEIGHT = 28;

/** The newest values of a series, what was expected of them, and the newest where it is outside. */
export function RowChart({ row }: { row: Schemas["SeriesRow"] }) {
  const { palette } = useLook();
  const t = row.spark.map((_, n) => n);
  const known = [...row.spark, ...row.spark_lower, ...row.spark_upper].filter(
    (amount): amount is number => amount !== null,
  );
  if (!known.length) return null;
  const low = Math.min(...known);
  const high = Math.max(...known);
  const value = linearScale({ min: low, max: high === low ? low + 1 : high, step: 1 }, [HEIGHT - 3, 3]);
  const time = linearScale({ min: 0, max: Math.max(1, t.length - 1), step: 1 }, [2, WIDTH - 5]);
  const newest = row.spark.findLastIndex((amount) => amount !== null);
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden>
      {row.spark_lower.length > 0 && (
        <path
          d={areaPath(t, [row.spark_lower, row.spark_upper], time, value)}
          fill={palette.iris}
          opacity={0.22}
        />
      )}
      <path d={linePath(t, row.spark, time, value)} fill="none" stroke={palette.lagoon} strokeWidth={1.3} />
      {(row.away ?? 0) > 1 && (
        <circle
          cx={time.toPixel(newest)}
          cy={value.toPixel(row.spark[newest] ?? low)}
          r={3}
          fill={palette.ember}
        />
      )}
    </svg>
  );
}
