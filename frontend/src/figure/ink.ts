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

/** The strokes of a dress, by name; one that is not named is unbroken. */
export const DASHES: Record<string, number[]> = {
  dashed: [7, 4],
  dotted: [1.2, 3],
  "dash-dot": [9, 3, 1.5, 3],
};

/** The stroke that a dress asks for; unbroken where it asks for none. */
export function dashOf(look: { dash: string }): { type?: number[] } {
  const type = DASHES[look.dash];
  return type ? { type } : {};
}
