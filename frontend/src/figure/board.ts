/** What is drawn on: the room, where numbers stand in it, and its colours; a panel of the bench or of a picture. */
import { textNode, type Node } from "./nodes";
import type { Palette } from "./palette";
import type { Plane } from "./plane";
import type { Box } from "./scale";

export interface Board {
  box: Box;
  plane: Plane;
  palette: Palette;
  /** The colour that lies under everything. */
  ground: string;
}

const ASCENT = 0.85; // of the size of letters, from their upper edge to the line they stand on

/** A text by its upper edge. */
export function written(
  text: string,
  x: number,
  y: number,
  { size, weight = 400, ...ink }: { size: number; weight?: number } & Node["attributes"],
): Node {
  return textNode(text, {
    x,
    y: y + size * ASCENT,
    "font-size": size,
    "font-weight": weight === 400 ? undefined : weight,
    ...ink,
  });
}

/** What keeps a text readable over lines. */
export function halo(ground: string): Node["attributes"] {
  return { stroke: ground, "stroke-width": 3, "stroke-linejoin": "round", "paint-order": "stroke" };
}

/** The size of texts over what is drawn. */
export const LABEL = 11.5;

/** A text over what is drawn, by its upper edge. */
export function label(text: string, x: number, y: number, fill: string, ground: string): Node {
  return written(text, x, y, { fill, size: LABEL, ...halo(ground) });
}
