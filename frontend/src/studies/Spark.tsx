const WIDTH = 360;
const HEIGHT = 96;

/** A thumbnail of a line; gaps stay gaps. */
export function Spark({ values }: { values: (number | null)[] }) {
  const known = values.filter((value): value is number => value !== null);
  const low = Math.min(...known);
  const span = Math.max(...known) - low || 1;
  let path = "";
  let pen = false;
  values.forEach((value, n) => {
    if (value === null) {
      pen = false;
      return;
    }
    const x = (n / Math.max(1, values.length - 1)) * WIDTH;
    const y = HEIGHT - 8 - ((value - low) / span) * (HEIGHT - 16);
    path += `${pen ? "L" : "M"}${x.toFixed(1)},${y.toFixed(1)}`;
    pen = true;
  });
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" className="spark" aria-hidden>
      <path d={path} fill="none" stroke="currentColor" strokeWidth={1.3} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
