/** Places for texts in a chart, so that none covers another. */
import type { Board } from "./board";
import { crossing, type Crossing, type Run } from "./crossing";
import { RING } from "./mark";
import type { Dot } from "./runs";

export const ROW = 14; // the height that a text takes

/** Where a text may stand: its left edge, and its upper one. */
export interface Spot {
  left: number;
  y: number;
}

export interface Placing {
  /** The first of some spots that covers no other text and, unless it may, no line; taken, and undefined where none is
   * free. */
  choose(width: number, spots: Spot[], overLines?: boolean): Spot | undefined;
  /** Keep a place clear of texts. */
  keepClear(left: number, width: number, y: number): void;
}

/** Room for the texts of a board. runs: lines in pixels, which no text lies on, looked at once a text wants room. grid:
 * heights of level lines, which are avoided where that can be. rings: what is picked out. */
export function roomOn(board: Board, runs: () => Run[], grid: number[], rings: Dot[]): Placing {
  let known: Crossing | undefined;
  const crosses: Crossing = (...box) => (known ??= crossing(runs()))(...box);
  const free = placing(
    ({ left, y }, width) => crosses(left, width, y + 1, ROW - 2),
    ({ y }) => grid.some((at) => at > y + 1 && at < y + ROW - 1),
    board,
  );
  for (const [x, y] of rings) free.keepClear(x - RING, 2 * RING, y - ROW / 2);
  return free;
}

const ABOVE_PLOT = 20; // pixels that a text may stand above the plot

function placing(
  onLine: (spot: Spot, width: number) => boolean,
  onGrid: (spot: Spot) => boolean,
  { box }: Board,
): Placing {
  const taken: { left: number; right: number; y: number }[] = [];
  const keepClear = (left: number, width: number, y: number) => {
    taken.push({ left, right: left + width, y });
  };
  const inside = ({ left, y }: Spot, width: number) =>
    left >= box.left && left + width <= box.right && y > box.top - ABOVE_PLOT && y <= box.bottom - ROW;
  const isFree = ({ left, y }: Spot, width: number) =>
    !taken.some((spot) => left < spot.right && left + width > spot.left && Math.abs(spot.y - y) < ROW);
  return {
    keepClear,
    choose(width, spots, overLines = false) {
      const open = spots.filter(
        (spot) => inside(spot, width) && isFree(spot, width) && (overLines || !onLine(spot, width)),
      );
      const found = open.find((spot) => !onGrid(spot)) ?? open[0];
      if (found) keepClear(found.left, width, found.y);
      return found;
    },
  };
}
