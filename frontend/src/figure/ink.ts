/** Strokes and dots as the charting library takes them. */
import type { Point } from "./strokes";

export interface Stroke {
  color: string;
  width: number;
  opacity?: number;
  type?: number[];
}

export function stroke(data: Point[], style: Stroke, z: number): object {
  return {
    type: "line",
    data,
    showSymbol: false,
    connectNulls: false,
    silent: true,
    clip: true,
    z,
    lineStyle: { join: "round", ...style },
  };
}

export function dots(
  data: Point[],
  look: { symbol: string; size: number; fill: string; edge: string },
): object {
  return {
    type: "scatter",
    data,
    symbol: look.symbol,
    symbolSize: look.size,
    silent: true,
    clip: true,
    z: 7,
    itemStyle: { color: look.fill, borderColor: look.edge, borderWidth: 1.4 },
  };
}
