/** Names where lines end, beside the plot: none covers another, and each is led back to its line where it had to make room. */
import { halo, written } from "./board";
import { node, type Node } from "./nodes";
import { spread } from "./scale";
import { fitted } from "./text";

export const NAME = 13; // pixels of the letters of a name
export const NOTE = 11.5; // and of what is said of a line under it
const GAP = 15.5;

export interface EndName {
  text: string;
  /** The height at which the line ends. */
  wish: number;
  ink: string;
  strong: boolean;
  /** Said of the line whose name stands above it. */
  note?: boolean;
  /** The line's key in the dress. */
  key?: string;
}

/** The column that names stand in. from: where leaders begin. most: pixels for a name. */
export interface Column {
  x: number;
  from: number;
  most: number;
  top: number;
  bottom: number;
}

export function endNames(names: EndName[], column: Column, muted: string, ground: string): Node[] {
  const { x, top, bottom } = column;
  const room = Math.max(1, Math.floor((bottom - top) / GAP));
  // what is said of lines gives way to the names of all of them
  const named = names.length > room ? names.filter((one) => !one.note) : names;
  // what does not fit is counted: names on each other can be read by nobody
  const shown = named.length > room ? named.slice(0, room - 1) : named;
  const more = named.length - shown.length;
  const heights = spread(
    shown.map((one) => one.wish),
    GAP,
    top + 4,
    bottom - 2 - (more ? GAP : 0),
  );
  const drawn = shown.flatMap((one, n) => nameAt(one, heights[n] ?? one.wish, column, ground));
  const rest = { fill: muted, size: NAME };
  return more ? [...drawn, written(`and ${more} more`, x, bottom - 11, rest)] : drawn;
}

function nameAt(one: EndName, y: number, { x, from, most }: Column, ground: string): Node[] {
  const size = one.note ? NOTE : NAME;
  const ink = { fill: one.ink, size, weight: one.strong ? 600 : 400, "data-line": one.key };
  const face = one.strong ? "sans600" : "sans400";
  const name = written(fitted(one.text, size, most, face), x, y - size / 2, { ...ink, ...halo(ground) });
  if (one.note || Math.abs(y - one.wish) <= GAP / 2) return [name];
  const leader = { x1: from + 1, y1: one.wish, x2: x - 2, y2: y, stroke: one.ink };
  return [node("line", { ...leader, "stroke-width": 0.9, "stroke-opacity": 0.6 }), name];
}
