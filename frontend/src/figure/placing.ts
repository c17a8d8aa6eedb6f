/** Places for texts in a chart, so that none covers another. */
import type { Frame } from "./frame";
import type { Drawn } from "./ink";
import { textNode, type Node } from "./nodes";

const LETTER = 6.4;
const ROW = 14;

/** Where a text may stand: its left edge, and its height as it is drawn. */
export interface Spot {
  left: number;
  y: number;
}

export interface Placing {
  /** The first of some spots that covers no other text and no line; taken, and undefined where none is free. */
  choose(width: number, spots: Spot[]): Spot | undefined;
  /** The height nearest to a wish at which a text of a width is free. */
  place(left: number, width: number, wish: number): number;
  /** Keep a place clear of texts. */
  keepClear(left: number, width: number, y: number): void;
  /** Whether a text of a width would cover no other at a height. */
  isFree(left: number, width: number, y: number): boolean;
}

/** row: the height that a text takes. onLine: whether a text of a width would lie on a line there; onGrid:
 * on one of the grid, which is avoided where it can be. */
export function placing(
  row = ROW,
  onLine: (spot: Spot, width: number) => boolean = () => false,
  onGrid: (spot: Spot) => boolean = () => false,
): Placing {
  const taken: { left: number; right: number; y: number }[] = [];
  const isFree = (left: number, width: number, y: number) =>
    !taken.some((one) => left < one.right && left + width > one.left && Math.abs(one.y - y) < row);
  const take = (left: number, width: number, y: number) => {
    taken.push({ left, right: left + width, y });
  };
  return {
    isFree,
    keepClear: take,
    choose(width, spots) {
      const open = spots.filter((spot) => isFree(spot.left, width, spot.y) && !onLine(spot, width));
      const found = open.find((spot) => !onGrid(spot)) ?? open[0];
      if (found) take(found.left, width, found.y);
      return found;
    },
    place(left, width, wish) {
      let y = wish;
      for (let tries = 0; !isFree(left, width, y) && tries < 8; tries++) y += row;
      take(left, width, y);
      return y;
    },
  };
}

export function widthOf(text: string): number {
  return text.length * LETTER;
}

const SIZE = 12;

/** A text over what is drawn. y: its upper edge. */
export function label(text: string, x: number, y: number, fill: string, frame: Frame, size = SIZE): Drawn {
  const halo = { stroke: frame.palette.paper, "stroke-width": 3, "paint-order": "stroke" };
  return { z: 8, node: written(text, x, y, { fill, size, ...halo }) };
}

/** A text by its upper edge. */
export function written(
  text: string,
  x: number,
  y: number,
  { size, weight = 400, ...ink }: { size: number; weight?: number } & Node["attributes"],
): Node {
  return textNode(text, { x, y: y + size * ASCENT, "font-size": size, "font-weight": weight, ...ink });
}

const ASCENT = 0.85; // of the size of letters, from their upper edge to the line they stand on
