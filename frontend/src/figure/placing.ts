/** Places for texts in a chart, so that none covers another. */
import type { Frame } from "./frame";

const LETTER = 6.4;
const ROW = 14;

export interface Placing {
  /** The height nearest to a wish at which a text of a width is free. */
  place(left: number, width: number, wish: number): number;
  /** Whether a text of a width would cover no other at a height. */
  isFree(left: number, width: number, y: number): boolean;
}

/** row: the height that a text takes. */
export function placing(row = ROW): Placing {
  const taken: { left: number; right: number; y: number }[] = [];
  const isFree = (left: number, width: number, y: number) =>
    !taken.some((one) => left < one.right && left + width > one.left && Math.abs(one.y - y) < row);
  return {
    isFree,
    place(left, width, wish) {
      let y = wish;
      for (let tries = 0; !isFree(left, width, y) && tries < 8; tries++) y += row;
      taken.push({ left, right: left + width, y });
      return y;
    },
  };
}

export function widthOf(text: string): number {
  return text.length * LETTER;
}

/** A text over what is drawn. */
export function label(text: string, x: number, y: number, fill: string, frame: Frame): object {
  return {
    type: "text",
    silent: true,
    x,
    y,
    style: { text, fill, font: `400 12px ${frame.font}`, stroke: frame.palette.paper, lineWidth: 3 },
  };
}
