import { strokeThrough, type Dot } from "../figure/runs";

const WIDTH = 360;
const HEIGHT = 96;

/** A thumbnail of a line; gaps stay gaps. */
export function Spark({ values }: { values: (number | null)[] }) {
  const known = values.filter((value): value is number => value !== null);
  const low = Math.min(...known);
  const span = Math.max(...known) - low || 1;
  const dots = values.map((value, n): Dot | undefined => {
    if (value === null) return undefined;
    const x = (n / Math.max(1, values.length - 1)) * WIDTH;
    return [x, HEIGHT - 8 - ((value - low) / span) * (HEIGHT - 16)];
  });
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" className="spark" aria-hidden>
      <path
        d={strokeThrough(dots)}
        fill="none"
        stroke="currentColor"
        strokeWidth={1.3}
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
