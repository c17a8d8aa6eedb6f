import type { Schemas } from "../api/client";
import { linearScale, niceRange } from "../figure/scale";
import { ValueGrid } from "./axes";

const WIDTH = 360;
const HEIGHT = 150;
const BOX = { left: 46, right: WIDTH - 8, top: 8, bottom: HEIGHT - 30 };

/** A small chart as evidence: points, bars or a line, with rules at levels worth knowing. */
export function EvidencePlot({ plot }: { plot: Schemas["PlotView"] }) {
  const known = [...plot.y.filter((y): y is number => y !== null), ...plot.levels];
  if (plot.kind === "bars") known.push(0);
  const x = linearScale(niceRange(Math.min(...plot.x), Math.max(...plot.x), 5), [BOX.left, BOX.right]);
  const y = linearScale(niceRange(Math.min(...known), Math.max(...known), 4), [BOX.bottom, BOX.top]);
  const points = plot.x.flatMap((at, n) => {
    const value = plot.y[n];
    return typeof value === "number" ? [[x.toPixel(at), y.toPixel(value)] as const] : [];
  });
  const width = Math.max(1, ((BOX.right - BOX.left) / Math.max(1, plot.x.length)) * 0.6);
  return (
    <section className="evidence-plot">
      <h3>{plot.title}</h3>
      <svg
        width={WIDTH}
        height={HEIGHT}
        role="img"
        aria-label={`${plot.title}: ${plot.y_title} by ${plot.x_title}`}
      >
        <ValueGrid scale={y} room={BOX} />
        {x.ticks.map((tick) => (
          <text key={tick.at} x={x.toPixel(tick.at)} y={BOX.bottom + 14} textAnchor="middle">
            {tick.label}
          </text>
        ))}
        <text x={(BOX.left + BOX.right) / 2} y={HEIGHT - 3} textAnchor="middle">
          {plot.x_title}
        </text>
        {plot.levels.map((level) => (
          <line
            key={level}
            className="level"
            x1={BOX.left}
            x2={BOX.right}
            y1={y.toPixel(level)}
            y2={y.toPixel(level)}
          />
        ))}
        {plot.kind === "lines" && <polyline points={points.map((point) => point.join(",")).join(" ")} />}
        {plot.kind === "points" && points.map(([cx, cy], n) => <circle key={n} cx={cx} cy={cy} r={2} />)}
        {plot.kind === "bars" &&
          points.map(([cx, cy], n) => (
            <rect
              key={n}
              x={cx - width / 2}
              width={width}
              y={Math.min(cy, y.toPixel(0))}
              height={Math.max(1, Math.abs(y.toPixel(0) - cy))}
            />
          ))}
      </svg>
    </section>
  );
}
