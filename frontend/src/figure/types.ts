/** What a figure is made of, as the core describes it. */
import type { Schemas } from "../api/client";

export type Figure = Schemas["Figure"];
export type Series = Schemas["SeriesView"];
export type Shape = Figure["shapes"][number];
export type Curve = Extract<Shape, { shape: "curve" }>;
export type Area = Extract<Shape, { shape: "area" }>;
export type Rule = Extract<Shape, { shape: "rule" }>;
export type Span = Extract<Shape, { shape: "span" }>;
export type Points = Extract<Shape, { shape: "points" }>;
export type Flags = Extract<Shape, { shape: "flags" }>;
export type Bars = Extract<Shape, { shape: "bars" }>;
export type Sign = Schemas["Sign"];

/** The shapes of one kind, of one series where one is named. */
export function shapesOf<K extends Shape["shape"]>(
  figure: Figure,
  kind: K,
  series?: string,
): Extract<Shape, { shape: K }>[] {
  return figure.shapes.filter(
    (shape): shape is Extract<Shape, { shape: K }> =>
      shape.shape === kind && (series === undefined || shape.series === series),
  );
}
