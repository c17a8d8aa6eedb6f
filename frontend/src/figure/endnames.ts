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
  const named = names.length > room ? names.filter((endName) => !endName.note) : names;
  // what does not fit is counted: names on each other can be read by nobody
  const shown = named.length > room ? named.slice(0, room - 1) : named;
  const more = named.length - shown.length;
  const heights = spread(
    shown.map((endName) => endName.wish),
    GAP,
    top + 4,
    bottom - 2 - (more ? GAP : 0),
  );
  const drawn = shown.flatMap((endName, n) => nameAt(endName, heights[n] ?? endName.wish, column, ground));
  const rest = { fill: muted, size: NAME };
  return more ? [...drawn, written(`and ${more} more`, x, bottom - 11, rest)] : drawn;
}

function nameAt(endName: EndName, y: number, { x, from, most }: Column, ground: string): Node[] {
  const size = endName.note ? NOTE : NAME;
  const ink = { fill: endName.ink, size, weight: endName.strong ? 600 : 400, "data-line": endName.key };
  const face = endName.strong ? "sans600" : "sans400";
  const name = written(fitted(endName.text, size, most, face), x, y - size / 2, { ...ink, ...halo(ground) });
  if (endName.note || Math.abs(y - endName.wish) <= GAP / 2) return [name];
  const leader = { x1: from + 1, y1: endName.wish, x2: x - 2, y2: y, stroke: endName.ink };
  return [node("line", { ...leader, "stroke-width": 0.9, "stroke-opacity": 0.6 }), name];
}
